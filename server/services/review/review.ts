import { z } from 'zod'
import { addDays, dayNumber, type IsoDate } from '../../../core/calendar'
import { minorDigits, toMajor } from '../../../core/money'
import {
  behaviourOn,
  historyOf,
  scoreOf,
  SCORE_PARTS,
  suggest,
  type Behaviour,
  type Suggestion,
} from '../../../core/review'

import { limitOf } from '../../../core/accounts'
import { takenBack } from '../../../core/measures'
import { LedgerImage } from '../../../core/image'
import type {
  AccountReview,
  ReviewAnswer,
  ReviewModel,
  reviewQuery,
  ReviewRow,
} from '../../../contract/review'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings, type Settings } from '../../db/settings'
import { addAccounts } from '../../image'
import { inBaseToday, NoRate } from '../../ledger/rates'
import { findCustomer } from '../accounts/customers'
import { INHERITED, WITH_CLASS } from '../accounts/inherited'
import { cut, decodeCursor, like } from '../common/paging'
import type { Scope } from '../people/scope'
import { readModel, saidOf, standOn, type KeptModel, promisesKept } from './model'

/** A limit that ends within so many days is looked at before it does. */
const SOON = 30

const reviewRow = z.object({
  id: cell.whole,
  number: cell.text,
  name: cell.text,
  version: cell.whole,
  riskClass: cell.text,
  own: cell.whole.nullable(),
  ofClass: cell.whole.nullable(),
  limitCurrency: cell.text,
  limitUntil: cell.day.nullable(),
  reviewDate: cell.day.nullable(),
  closed: cell.whole,
})
type Row = z.output<typeof reviewRow>

const COLUMNS = `c.id, c.number, c.name, c.version, ${INHERITED.riskClass} AS riskClass, c.credit_limit AS own,
  k.credit_limit AS ofClass, c.limit_currency AS limitCurrency, c.limit_until AS limitUntil,
  c.review_date AS reviewDate, c.closed_on IS NOT NULL AS closed`

const scoredRow = reviewRow.extend({
  score: cell.whole.nullable(),
  probability: cell.whole.nullable(),
  longLate: cell.whole,
  most: cell.whole,
  danger: cell.whole,
})

/** One class is within what chance does; two are looked at before the day of the review. */
const MUCH_WORSE = 2
const worseBy = (from: string, to: string) => to.charCodeAt(0) - from.charCodeAt(0)

/** Why an account is to be reviewed: what one can say in SQL, in the same order as `dueReasons`. */
const DUE = `(c.review_date <= :today
  OR (c.limit_until <= :soon AND c.credit_limit IS NOT NULL)
  OR (s.suggested <> '' AND ${INHERITED.riskClass} <> ''
    AND ASCII(s.suggested) - ASCII(${INHERITED.riskClass}) >= ${MUCH_WORSE})
  OR (s.long_late = 1 AND COALESCE(c.credit_limit, k.credit_limit) > 0))`

interface Standing {
  row: Row
  score: number | null
  probability: number | null
  isLongLate: boolean
  /** The most that was open, base minor units. */
  most: number
}

function dueReasons(
  { row, isLongLate }: Standing,
  today: IsoDate,
  suggestion: Suggestion | null,
  limit: number | null,
): string[] {
  const reasons: string[] = []
  if (row.reviewDate !== null && row.reviewDate <= today) reasons.push(`due on ${row.reviewDate}`)
  if (row.own !== null && row.limitUntil !== null && row.limitUntil <= addDays(today, SOON))
    reasons.push(`its limit ${row.limitUntil < today ? 'ended' : 'ends'} on ${row.limitUntil}`)
  if (suggestion && row.riskClass && worseBy(row.riskClass, suggestion.riskClass) >= MUCH_WORSE)
    reasons.push(`looks like class ${suggestion.riskClass}, is ${row.riskClass}`)
  if (isLongLate && limit !== null && limit > 0) reasons.push('more than 90 days late, and has a limit')
  return reasons
}

/** How much of a currency one base unit is worth, to tell a need in the currency of a limit. */
type InLimit = (base: number, currency: string) => number

async function ratesFor(db: Handle, settings: Settings, currencies: Iterable<string>): Promise<InLimit> {
  const inBase = await inBaseToday(db, settings, currencies)
  return (amount, currency) => {
    if (currency === settings.base) return amount
    const many = 1_000_000 * 10 ** minorDigits(currency)
    return Math.round((amount / inBase(many, currency)) * many)
  }
}

function shownStanding(standing: Standing, settings: Settings, inLimit: InLimit) {
  const { row, probability, isLongLate } = standing
  const { amount: limit, currency } = limitOf({ ...row, currency: row.limitCurrency }, settings.base)
  let suggestion: Suggestion | null = null
  try {
    suggestion = suggest(
      { probability, isLongLate, most: inLimit(standing.most, currency), unit: 10 ** minorDigits(currency) },
      amount => `${toMajor(amount, currency)} ${currency}`,
    )
  } catch (error) {
    // Without a rate no limit can be told: the account is shown all the same.
    if (!(error instanceof NoRate)) throw error
  }
  return {
    score: standing.score,
    probability,
    longLate: isLongLate,
    riskClass: row.riskClass,
    limit,
    currency,
    suggestion,
    reviewDate: row.reviewDate,
    due: dueReasons(standing, settings.today, suggestion, limit),
  }
}

const shownModel = ({ asOf, observations, cases, tested }: KeptModel): ReviewModel => ({
  asOf,
  observations,
  cases,
  tested,
})

const reviewable = (scope: Scope) => `FROM customer c ${WITH_CLASS}
    LEFT JOIN review_score s ON s.customer_id = c.id
    WHERE c.merged_into IS NULL AND c.closed_on IS NULL ${scope.salesId ? 'AND c.sales_id = :salesId' : ''}`

const dueValues = (today: IsoDate, scope: Scope): Values => ({
  today,
  soon: addDays(today, SOON),
  salesId: scope.salesId ?? 0,
})

/** How many accounts are to be reviewed now. */
export async function reviewsDue(database: Handle, { today }: Settings, scope: Scope): Promise<number> {
  const [row] = await database.select(
    `SELECT COUNT(*) AS n ${reviewable(scope)} AND ${DUE}`,
    dueValues(today, scope),
  )
  return int(row!.n)
}

/** Accounts to be reviewed, or all that were scored: what is late already first, then by probability. */
export async function readReview(
  database: Handle,
  q: z.output<typeof reviewQuery>,
  scope: Scope,
): Promise<ReviewAnswer> {
  const settings = await readSettings(database)
  const { today, base } = settings
  const values = dueValues(today, scope)
  const from = reviewable(scope)
  const where: string[] = q.which === 'due' ? [DUE] : ['s.customer_id IS NOT NULL']
  if (q.search) {
    where.push('(c.name LIKE :search OR c.number LIKE :search)')
    values.search = like(q.search)
  }
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) {
    where.push(
      '(COALESCE(s.danger, -2) < :lastDanger OR (COALESCE(s.danger, -2) = :lastDanger AND c.number > :lastNumber))',
    )
    ;[values.lastDanger, values.lastNumber] = cursor
  }
  const [rows, due, model] = await Promise.all([
    database.rows(
      scoredRow,
      `SELECT ${COLUMNS}, s.score, s.probability, COALESCE(s.long_late, 0) AS longLate,
        COALESCE(s.most_open, 0) AS most, COALESCE(s.danger, -2) AS danger ${from}
        AND ${where.join(' AND ')} ORDER BY danger DESC, c.number LIMIT ${q.limit + 1}`,
      values,
    ),
    reviewsDue(database, settings, scope),
    readModel(database, settings.reviewWeights),
  ])
  const page = cut(rows, q.limit, r => [r.danger, r.number])
  const inLimit = await ratesFor(
    database,
    settings,
    page.items.flatMap(r => (r.limitCurrency ? [r.limitCurrency] : [])),
  )
  return {
    base,
    today,
    due,
    model: model && shownModel(model),
    next: page.next,
    items: page.items.map(({ score, probability, longLate, most, danger: _, ...row }): ReviewRow => {
      const standing = {
        row,
        score: score === null ? null : score / 10,
        probability: probability === null ? null : probability / 1e6,
        isLongLate: longLate === 1,
        most,
      }
      return {
        customer: { number: row.number, name: row.name },
        ...shownStanding(standing, settings, inLimit),
      }
    }),
  }
}

/** Nothing was claimed yet: no part of a score is known. */
const NOTHING: Behaviour = {
  months: 0,
  daysLate: null,
  trend: null,
  shareLate: null,
  shareOverdue: null,
  returned: 0,
  promised: 0,
  broken: 0,
  paid: 0,
  open: 0,
}

/** The review of one account, from its ledger as it is now. */
export async function readAccountReview(
  database: Handle,
  number: string,
  scope: Scope,
): Promise<AccountReview> {
  const settings = await readSettings(database)
  const { id } = await findCustomer(database, number, scope)
  const ledger = new LedgerImage()
  const [[row], model] = await Promise.all([
    database.rows(reviewRow, `SELECT ${COLUMNS} FROM customer c ${WITH_CLASS} WHERE c.id = :id`, { id }),
    readModel(database, settings.reviewWeights),
    addAccounts(database, ledger, [id]),
  ])
  const weights = settings.reviewWeights
  const day = dayNumber(settings.today)
  const history = historyOf(ledger, id, takenBack(ledger), day)
  history.promises = (await promisesKept(database, [id])).get(id) ?? []
  const stand = standOn(history, day, weights)
  const behaviour = behaviourOn(history, day) ?? NOTHING
  const inLimit = await ratesFor(database, settings, row!.limitCurrency ? [row!.limitCurrency] : [])
  const standing = {
    row: row!,
    score: stand.score === null ? null : Math.round(stand.score * 10) / 10,
    probability: model && saidOf(stand, model.model),
    isLongLate: stand.isLongLate,
    most: stand.most,
  }
  return {
    customer: { number: row!.number, name: row!.name },
    base: settings.base,
    today: settings.today,
    version: row!.version,
    ...shownStanding(standing, settings, inLimit),
    parts: scoreOf(behaviour, weights).parts.map(part => ({
      ...part,
      said: SCORE_PARTS[part.part].said(behaviour),
    })),
    most: stand.most,
    model: model && shownModel(model),
  }
}

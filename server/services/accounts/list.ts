import { Op } from '../../db/where'
import { z } from 'zod'
import type {
  AccountColumn,
  AccountFigures,
  AccountList,
  AccountListAsk,
  Given,
} from '../../../core/accounts'
import { dayNumber } from '../../../core/calendar'
import { HOLD_CAUSES } from '../../../core/exposure'
import type { AccountRow, AccountSort, AccountsQuery } from '../../../contract/accounts'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings, type Settings } from '../../db/settings'
import { answer, askImage, slicesOf, type Wanted } from '../../image'
import { rateKey } from '../../../core/rates'
import { loadRates, NoRate } from '../../ledger/rates'
import { customersWanted } from '../aging/request'
import { heldOf } from '../exposure/holds'
import { addendsOf, standingsOf } from '../exposure/standing'
import { cut, decodeCursor } from '../common/paging'
import type { Scope } from '../people/scope'

/** Columns that the ledger in memory sorts by itself. */
const OWN: Partial<Record<AccountSort, AccountColumn>> = {
  name: 'name',
  number: 'number',
  class: 'className',
  place: 'city',
  contact: 'contact',
  currency: 'currency',
  controller: 'controller',
  open: 'open',
  overdue: 'overdue',
  oldest: 'oldest',
  exposure: 'exposure',
  limit: 'limit',
  headroom: 'headroom',
  score: 'score',
  lateness: 'daysLate',
}

/** The last day on which something was said to the customer, by a note or a reminder. */
const CONTACTED = `SELECT customer_id, MAX(day) AS day FROM (
    SELECT customer_id, MAX(on_date) AS day FROM note GROUP BY customer_id
    UNION ALL SELECT customer_id, MAX(on_date) FROM live_notice GROUP BY customer_id) said GROUP BY customer_id`
/** Highest reminder level of what is open. */
const LEVELS = `SELECT n.customer_id, MAX(ni.level) AS level FROM live_notice n
    JOIN notice_item ni ON ni.notice_id = n.id JOIN open_item o ON o.item_id = ni.item_id GROUP BY n.customer_id`

/** What the other columns are sorted by: a value for each customer, as far as there is one. */
const GIVEN: Partial<Record<AccountSort, string>> = {
  hold: 'SELECT customer_id AS id, COUNT(*) AS value FROM hold WHERE ended_at IS NULL GROUP BY customer_id',
  level: `SELECT customer_id AS id, level AS value FROM (${LEVELS}) l`,
  contacted: `SELECT customer_id AS id, DATEDIFF(day, '1970-01-01') AS value FROM (${CONTACTED}) c`,
}

function givenOf(rows: Iterable<readonly [id: number, value: number]>): Given {
  const list = [...rows]
  return {
    ids: Uint32Array.from(list, ([id]) => id),
    values: Float64Array.from(list, ([, value]) => value),
  }
}

const givenForRow = z.object({
  id: cell.whole,
  value: cell.sum,
})

async function givenFor(database: Handle, column: AccountSort): Promise<Given | null> {
  const sql = GIVEN[column]
  if (!sql) return null
  const rows = await database.rows(givenForRow, sql)
  return givenOf(rows.map(r => [r.id, Number(r.value)]))
}

/** Of each database the currencies that limits are in, while no customer changes. */
const limitCurrencies = new WeakMap<object, { version: number; currencies: string[] }>()

async function currenciesOfLimits(database: Handle, { base, versions }: Settings): Promise<string[]> {
  const known = limitCurrencies.get(database.sequelize)
  if (known?.version === versions.customers) return known.currencies
  const rows = await database.find(
    'customer',
    { limit_currency: { [Op.notIn]: ['', base] } },
    { columns: { currency: 'limit_currency' }, distinct: true },
  )
  const currencies = rows.map(r => r.currency)
  limitCurrencies.set(database.sequelize, { version: versions.customers, currencies })
  return currencies
}

/** Rates of the currencies that limits are in, as far as there are any. */
async function limitRates(database: Handle, settings: Settings): Promise<[string, string][]> {
  const { base, today } = settings
  const currencies = await currenciesOfLimits(database, settings)
  const rates = await loadRates(
    database,
    base,
    currencies.map(currency => ({ currency, date: today })),
  )
  return currencies.flatMap((currency): [string, string][] => {
    const rate = rates.get(rateKey(currency, today))
    return rate === undefined ? [] : [[currency, rate]]
  })
}

/** Accounts that are held, as it was kept last, among those that are wanted. */
async function heldAmong(database: Handle, wanted: Wanted): Promise<Wanted> {
  const rows = await database.find(
    'hold',
    { ended_at: null },
    { columns: { id: 'customer_id' }, distinct: true },
  )
  const found = wanted.ids && new Set(wanted.ids)
  return { ...wanted, ids: rows.map(r => r.id).filter(id => !found || found.has(id)) }
}

/** In the order of a page: what is before what. */
function compare(
  a: AccountFigures,
  b: AccountFigures,
  descending: boolean,
  placeOf: (customerId: number) => number,
) {
  const last = (value: number) => (value === Number.MAX_SAFE_INTEGER ? 1 : 0)
  return (
    last(a.sortValue) - last(b.sortValue) ||
    (descending ? b.sortValue - a.sortValue : a.sortValue - b.sortValue) ||
    placeOf(a.customerId) - placeOf(b.customerId)
  )
}

type Question = Omit<AccountListAsk, 'wanted' | 'inBase'> & {
  wanted: Wanted
  base: string
  rates: [string, string][]
}

/** Without the ledger in memory: page by page of slices, the best of all. */
async function fromSlices(database: Handle, question: Question): Promise<AccountList> {
  const all: AccountList = { rows: [], totals: { count: 0, open: 0, overdue: 0, exposure: 0 } }
  for await (const books of slicesOf(database, question.wanted)) {
    const numbers = books.customers.placesBy('number')
    const placeOf = (id: number) => numbers[books.customers.rowOf(id)]!
    // Of a slice only its own customers count, whoever else is known by name.
    const own = { ...question.wanted, ids: [...books.ids] }
    const { rows, totals } = answer(books, 'accounts', { ...question, wanted: own })
    all.rows = [...all.rows, ...rows]
      .sort((a, b) => compare(a, b, question.descending, placeOf))
      .slice(0, question.limit + 1)
    for (const name of ['count', 'open', 'overdue', 'exposure'] as const) all.totals[name] += totals[name]
  }
  return all
}

const detailRow = z.object({
  id: cell.whole,
  number: cell.text,
  name: cell.text,
  currency: cell.text,
  country: cell.text,
  city: cell.text,
  class: cell.text,
  controller: cell.text.nullable(),
  contact: cell.text,
  phone: cell.text,
  level: cell.whole.nullable(),
  lateness: cell.whole.nullable(),
  score: cell.whole.nullable(),
  noted: cell.day.nullable(),
  reminded: cell.day.nullable(),
})
type Detail = z.output<typeof detailRow>

async function detailsOf(database: Handle, ids: readonly number[]): Promise<Map<number, Detail>> {
  if (!ids.length) return new Map()
  const rows = await database.rows(
    detailRow,
    `SELECT c.id, c.number, c.name, c.currency, c.country, c.city, COALESCE(k.name, c.class) AS class,
      p.name AS controller, c.contact, c.phone, s.days_late AS lateness, s.score,
      (SELECT MAX(ni.level) FROM live_notice n JOIN notice_item ni ON ni.notice_id = n.id
        JOIN open_item o ON o.item_id = ni.item_id WHERE n.customer_id = c.id) AS level,
      (SELECT MAX(on_date) FROM note WHERE customer_id = c.id) AS noted,
      (SELECT MAX(on_date) FROM live_notice WHERE customer_id = c.id) AS reminded
      FROM customer c LEFT JOIN customer_class k ON k.code = c.class
      LEFT JOIN person p ON p.id = c.controller_id LEFT JOIN review_score s ON s.customer_id = c.id
      WHERE c.id IN (:ids)`,
    { ids },
  )
  return new Map(rows.map(r => [r.id, r]))
}

function contactedOf({ noted, reminded }: Detail): AccountRow['contacted'] {
  if (noted !== null && (reminded === null || noted >= reminded)) return { date: noted, how: 'note' }
  return reminded === null ? null : { date: reminded, how: 'reminder' }
}

/** Why the accounts of a page are held, at this moment; where a rate is missing, what was kept last. */
async function holdsOf(database: Handle, settings: Settings, ids: readonly number[]) {
  if (!ids.length) return () => []
  try {
    const standings = await standingsOf(database, settings, ids)
    const held = await heldOf(database, settings, standings, ids)
    return (id: number) => (held.get(id)?.holds ?? []).map(h => HOLD_CAUSES[h.cause])
  } catch (error) {
    if (!(error instanceof NoRate)) throw error
    const kept = await database.find(
      'hold',
      { ended_at: null, customer_id: ids },
      { columns: { id: 'customer_id', cause: 'cause' }, order: ['customer_id'] },
    )
    return (id: number) => kept.filter(h => h.id === id).map(h => HOLD_CAUSES[h.cause])
  }
}

/** The list of accounts: a page of it, with the totals of all that were asked for. */
export async function listAccounts(
  database: Handle,
  q: AccountsQuery,
  scope: Scope,
): Promise<{ items: AccountRow[]; totals: AccountList['totals']; next: string | null }> {
  const settings = await readSettings(database)
  const { today, base } = settings
  const sort = q.sort.replace(/^-/, '') as AccountSort
  const cursor = decodeCursor(q.cursor, 2)
  const wanted = await customersWanted(
    database,
    {
      ...q,
      asOf: undefined,
      known: undefined,
      currency: undefined,
      buckets: undefined,
      basis: 'due',
      by: 'customer',
    },
    scope,
  )
  const [given, addends, rates] = await Promise.all([
    givenFor(database, sort),
    addendsOf(database, settings),
    limitRates(database, settings),
  ])
  const question: Question = {
    day: dayNumber(today),
    date: today,
    wanted: q.only === 'held' ? await heldAmong(database, wanted) : wanted,
    only: q.only === undefined || q.only === 'held' ? null : q.only,
    addends: givenOf(addends),
    given,
    column: OWN[sort] ?? 'given',
    descending: q.sort.startsWith('-'),
    after: cursor && { value: Number(cursor[0]), number: String(cursor[1]) },
    limit: q.limit,
    base,
    rates,
  }
  const found =
    (await askImage(database, 'accounts', question, 'waits')) ?? (await fromSlices(database, question))
  const ids = found.rows.map(r => r.customerId)
  const [details, holds] = await Promise.all([detailsOf(database, ids), holdsOf(database, settings, ids)])
  const page = cut(found.rows, q.limit, r => [r.sortValue, details.get(r.customerId)!.number])
  return {
    next: page.next,
    totals: found.totals,
    items: page.items.map(({ customerId, sortValue: _, ...figures }): AccountRow => {
      const detail = details.get(customerId)!
      const { id: __, noted: ___, reminded: ____, level, score, controller, ...shown } = detail
      return {
        ...shown,
        ...figures,
        controller: controller ?? '',
        holds: holds(customerId),
        level: level ?? 0,
        score: score === null ? null : score / 10,
        contacted: contactedOf(detail),
      }
    }),
  }
}

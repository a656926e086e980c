import { z } from 'zod'
import { cell } from '../../db/rows'
import {
  behaviourOn,
  Calibration,
  historyOf,
  mostOpen,
  probability,
  riskOf,
  scoreOf,
  spellAfter,
  suggest,
  type AccountHistory,
  type Calibrated,
  type Model,
  type Weights,
} from '../../../core/review'
import { lastPaidOn, patternOf, type Pattern } from '../../../core/callList'
import { takenBack } from '../../../core/measures'
import { dayNumber, fromDayNumber, type IsoDate } from '../../../core/calendar'
import type { Handle } from '../../db/handle'
import { changes, readSettings } from '../../db/settings'
import { slicesOf } from '../../image'

/** A model as it is kept. */
export interface KeptModel extends Calibrated {
  id: number
  asOf: IsoDate
  model: Model
}

/** The newest model for some weights; null when none was learnt yet. */
export async function readModel(db: Handle, weights: Weights): Promise<KeptModel | null> {
  const [row] = await db.find(
    'review_model',
    { weights: JSON.stringify(weights) },
    {
      columns: {
        id: 'id',
        asOf: 'as_of',
        a: 'a',
        b: 'b',
        shape: 'shape',
        observations: 'observations',
        cases: 'cases',
        tested: 'tested',
      },
      order: [['id', 'DESC']],
      limit: 1,
    },
  )
  if (!row) return null
  const { id, asOf, observations, cases } = row
  return {
    id,
    asOf,
    observations,
    cases,
    model: { a: Number(row.a), b: Number(row.b), shape: Number(row.shape) },
    tested: row.tested ? (JSON.parse(row.tested) as KeptModel['tested']) : null,
  }
}

/** How an account stands on a day, before a model says what it makes of it. */
export interface Stand {
  /** 0 to 100; null when nothing is known. */
  score: number | null
  isLongLate: boolean
  /** The most that was open in the last year, base minor units. */
  most: number
  daysLate: number | null
  pattern: Pattern | null
  /** The day of the last payment, since 1970. */
  lastPaid: number | null
}

export function standOn(history: AccountHistory, day: number, weights: Weights): Stand {
  const behaviour = behaviourOn(history, day)
  return {
    score: behaviour && scoreOf(behaviour, weights).score,
    isLongLate: spellAfter(history, day).isIn,
    most: mostOpen(history, day),
    daysLate: behaviour?.daysLate ?? null,
    pattern: patternOf(history.payments, day),
    lastPaid: lastPaidOn(history.payments, day),
  }
}

/** What a model says of a score; null of an account that is late already, or of which nothing is known. */
export const saidOf = ({ score, isLongLate }: Stand, model: Model): number | null =>
  score === null || isLongLate ? null : probability(model, riskOf(score))

/** Above every probability: what is late already comes first. */
const LATE_NOW = 2_000_000
const millionths = (value: number | null) => (value === null ? null : Math.round(value * 1e6))

function scoreRow(customerId: number, modelId: number, stand: Stand, model: Model) {
  const said = saidOf(stand, model)
  const suggestion = suggest(
    { probability: said, isLongLate: stand.isLongLate, most: stand.most, unit: 100 },
    () => '',
  )
  return {
    customer_id: customerId,
    model_id: modelId,
    score: stand.score === null ? null : Math.round(stand.score * 10),
    probability: millionths(said),
    long_late: Number(stand.isLongLate),
    most_open: stand.most,
    suggested: suggestion?.riskClass ?? '',
    danger: stand.isLongLate ? LATE_NOW : (millionths(said) ?? -1),
    days_late: stand.daysLate === null ? null : Math.round(stand.daysLate),
    usual_late: stand.pattern?.usual ?? null,
    spread: stand.pattern?.spread ?? null,
    last_paid: stand.lastPaid === null ? null : fromDayNumber(stand.lastPaid),
    pay_day: stand.pattern?.payDay ?? null,
  }
}

/**
 * Learns the model of the house from its ledger and tells by it how each account stands, as of today. In
 * slices: whatever the size of the ledger, only some accounts are held at once.
 */
const promisesKeptRow = z.object({
  id: cell.whole,
  day: cell.whole,
  kept: cell.whole,
})

/** Of some customers the dates that were promised and are over, and whether the money came in time. */
export async function promisesKept(
  database: Handle,
  ids: readonly number[],
): Promise<Map<number, AccountHistory['promises']>> {
  const byCustomer = new Map<number, AccountHistory['promises']>()
  if (!ids.length) return byCustomer
  const rows = await database.rows(
    promisesKeptRow,
    `SELECT m.customer_id AS id, DATEDIFF(p.until, '1970-01-01') AS day, p.state = 'kept' AS kept FROM promise m
      JOIN promise_part p ON p.promise_id = m.id WHERE m.customer_id IN (:ids) AND m.withdrawn_on IS NULL
      AND p.state <> 'due'`,
    { ids },
  )
  for (const { id, day, kept } of rows)
    byCustomer.set(id, [...(byCustomer.get(id) ?? []), { day, kept: Number(kept) === 1 }])
  return byCustomer
}

export async function learn(database: Handle): Promise<void> {
  const { today, reviewWeights: weights } = await readSettings(database)
  const day = dayNumber(today)
  const calibration = new Calibration(day, weights)
  const stands = new Map<number, Stand>()
  for await (const { ledger, ids } of slicesOf(database, { ids: null })) {
    const gone = takenBack(ledger)
    const promises = await promisesKept(database, ids)
    for (const id of ids) {
      const history = historyOf(ledger, id, gone, day)
      history.promises = promises.get(id) ?? []
      if (!history.claims.length) continue
      calibration.add(history)
      stands.set(id, standOn(history, day, weights))
    }
  }
  const { model, observations, cases, tested } = calibration.learnt()
  await database.transaction(async tx => {
    const [id] = await tx.insert('review_model', [
      {
        as_of: today,
        weights: JSON.stringify(weights),
        ...model,
        observations,
        cases,
        tested: tested && JSON.stringify(tested),
      },
    ])
    await tx.remove('review_score', {})
    await tx.insert(
      'review_score',
      [...stands].map(([customerId, stand]) => scoreRow(customerId, id!, stand, model)),
    )
    // The list of accounts sorts by them in memory.
    await changes(tx, 'customers')
  })
}

/** So often it is looked whether there is anything new to learn. */
const EVERY_MS = 5_000

/** Learns anew on each business day, and when the weights change. */
export function reviewKeeper(database: Handle): () => Promise<void> {
  let looked = 0
  return async () => {
    if (Date.now() - looked < EVERY_MS) return
    looked = Date.now()
    const { today, reviewWeights } = await readSettings(database)
    const [last] = await database.find(
      'review_model',
      {},
      { columns: { asOf: 'as_of', weights: 'weights' }, order: [['id', 'DESC']], limit: 1 },
    )
    if (last?.asOf === today && last.weights === JSON.stringify(reviewWeights)) return
    const [posted] = await database.find('entry', {}, { columns: ['id'], limit: 1 })
    if (posted) await learn(database)
  }
}

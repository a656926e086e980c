import { z } from 'zod'
import { dayNumber, type IsoDate } from '../../../core/calendar'
import type { KnownItem } from '../../../core/forecast'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'

/*
 * What is known of open items beside how their customers pay: promises, disputes, direct debits. Where the
 * house has seen little of how such things end, a rule of ours stands beside it (its weight in cases).
 */

/** Of promises that are over, so many are kept where nothing is known; counted like so many cases. */
const KEPT = { share: 0.6, cases: 5 }
/** Of disputes, so many end without money; and so many days pass until one ends. */
const CREDITED = { share: 0.4, cases: 5 }
const DISPUTE_DAYS = { days: 30, cases: 5 }
/** Of direct debits, so many come back. */
const RETURNED = { share: 0.02, cases: 50 }

interface Prior {
  share: number
  cases: number
}
const shareOf = (happened: number, of: number, prior: Prior): number =>
  (happened + prior.share * prior.cases) / (of + prior.cases)

const promiseCells = z.object({ itemId: cell.whole, day: cell.day })
const countCells = z.object({ count: cell.whole, happened: cell.sum })

/** Items that were promised for a day, as known on a date; with the chance that a promise is kept. */
async function promisedItems(db: Handle, asOf: IsoDate): Promise<KnownItem[]> {
  const [over] = await db.rows(
    countCells,
    `SELECT COUNT(*) AS count, COALESCE(SUM(p.state = 'kept'), 0) AS happened FROM promise_part p
      JOIN promise m ON m.id = p.promise_id WHERE p.state <> 'due' AND p.until <= :asOf AND m.withdrawn_on IS NULL`,
    { asOf },
  )
  const chance = shareOf(int(over!.happened), over!.count, KEPT)
  const rows = await db.rows(
    promiseCells,
    `SELECT t.item_id AS itemId, MIN(p.date) AS day FROM promise m JOIN promise_item t ON t.promise_id = m.id
      JOIN promise_part p ON p.promise_id = m.id
      WHERE m.made_on <= :asOf AND (m.withdrawn_on IS NULL OR m.withdrawn_on > :asOf) AND p.until >= :asOf
      GROUP BY t.item_id`,
    { asOf },
  )
  return rows.map(({ itemId, day }) => ({
    itemId,
    source: 'promises',
    knowledge: { kind: 'promise', day: dayNumber(day), chance },
  }))
}

const disputeCells = z.object({ count: cell.whole, happened: cell.sum, days: cell.sum })

async function disputedItems(db: Handle, asOf: IsoDate): Promise<KnownItem[]> {
  const [over] = await db.rows(
    disputeCells,
    `SELECT COUNT(*) AS count, COALESCE(SUM(resolution IN ('credited', 'written-off')), 0) AS happened,
      COALESCE(SUM(DATEDIFF(resolved_on, opened_on)), 0) AS days
      FROM dispute WHERE resolution <> '' AND resolved_on <= :asOf`,
    { asOf },
  )
  const chance = shareOf(int(over!.happened), over!.count, CREDITED)
  const days = (int(over!.days) + DISPUTE_DAYS.days * DISPUTE_DAYS.cases) / (over!.count + DISPUTE_DAYS.cases)
  const rows = await db.rows(
    z.object({ itemId: cell.whole }),
    `SELECT DISTINCT t.item_id AS itemId FROM dispute d JOIN dispute_item t ON t.dispute_id = d.id
      WHERE d.opened_on <= :asOf AND (d.resolution = '' OR d.resolved_on > :asOf)`,
    { asOf },
  )
  return rows.map(({ itemId }) => ({
    itemId,
    source: 'disputes',
    knowledge: { kind: 'dispute', chance, days },
  }))
}

/** Items in direct debits that are announced or sent: told of today only, for their past is not kept. */
async function collectedItems(db: Handle, asOf: IsoDate): Promise<KnownItem[]> {
  const [over] = await db.rows(
    countCells,
    `SELECT COUNT(*) AS count, COALESCE(SUM(state = 'returned'), 0) AS happened FROM collection
      WHERE state IN ('collected', 'returned')`,
  )
  const chance = shareOf(int(over!.happened), over!.count, RETURNED)
  const rows = await db.rows(
    promiseCells,
    `SELECT t.item_id AS itemId, MIN(k.collect_on) AS day FROM collection k
      JOIN collection_item t ON t.collection_id = k.id
      WHERE k.state IN ('announced', 'sent') AND k.collect_on >= :asOf GROUP BY t.item_id`,
    { asOf },
  )
  return rows.map(({ itemId, day }) => ({
    itemId,
    source: 'collections',
    knowledge: { kind: 'collection', day: dayNumber(day), chance },
  }))
}

/** The later overrules: what is collected is collected, promised or not; what is disputed waits. */
export async function knownItems(db: Handle, asOf: IsoDate, isToday: boolean): Promise<KnownItem[]> {
  return [
    ...(await promisedItems(db, asOf)),
    ...(isToday ? await collectedItems(db, asOf) : []),
    ...(await disputedItems(db, asOf)),
  ]
}

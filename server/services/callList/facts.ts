import { z } from 'zod'
import { cell } from '../../db/rows'
import { Op } from '../../db/where'
import { coveredItems } from '../../../core/promises'
import type { CallFacts } from '../../../core/callList'
import { OUTCOME_CODES, OUTCOMES } from '../../../core/callList'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { DISPUTE_LIVES } from '../disputes/live'
import { openPromises } from '../promises/promises'

/** Outcomes in which somebody was reached, for SQL. */
export const REACHED = OUTCOME_CODES.filter(code => OUTCOMES[code].reached)
  .map(code => `'${code}'`)
  .join(', ')
const days = (column: string) => `DATEDIFF(${column}, '1970-01-01')`

const calledCells = z.object({
  customerId: cell.whole,
  calledOn: cell.whole,
  reachedOn: cell.whole.nullable(),
  nextOn: cell.whole.nullable(),
})
/** The last call of each customer, and the last in which somebody was reached. */
const CALLED = `SELECT l.customer_id AS customerId, ${days('l.on_date')} AS calledOn, ${days('g.reached')} AS reachedOn,
    ${days('l.next_date')} AS nextOn FROM call_log l JOIN (SELECT customer_id, MAX(id) AS id,
      MAX(IF(outcome IN (${REACHED}), on_date, NULL)) AS reached FROM call_log GROUP BY customer_id) g ON g.id = l.id`

/** Tries since somebody was reached, of customers with more than none. */
const MISSED = `SELECT l.customer_id AS customerId, COUNT(*) AS missed FROM call_log l
    LEFT JOIN (SELECT customer_id, MAX(id) AS id FROM call_log WHERE outcome IN (${REACHED})
      GROUP BY customer_id) r ON r.customer_id = l.customer_id
    WHERE l.outcome NOT IN (${REACHED}) AND l.id > COALESCE(r.id, 0) GROUP BY l.customer_id`

/** Calls in which somebody was reached since the customer paid last, of the last months. */
const IN_VAIN = `SELECT l.customer_id AS customerId, COUNT(*) AS inVain FROM call_log l
    JOIN review_score s ON s.customer_id = l.customer_id
    WHERE l.outcome IN (${REACHED}) AND l.on_date > COALESCE(s.last_paid, '1970-01-01')
    AND l.on_date >= DATE_SUB(:today, INTERVAL 120 DAY) GROUP BY l.customer_id`

/** When each customer was rung last. */
const RUNG = 'SELECT customer_id, MAX(at) AS at FROM call_log GROUP BY customer_id'

/** Something that happened since the last call: money that came back, mail that waits for an answer. */
const HAPPENED = `SELECT h.customerId FROM (
      SELECT i.customer_id AS customerId, e.at FROM entry e JOIN item i ON i.entry_id = e.id
        WHERE e.date >= DATE_SUB(:today, INTERVAL 14 DAY) AND e.kind = 'reversal'
        AND i.kind = 'reversal' AND i.side = 'debit'
      UNION ALL SELECT customer_id, at FROM inbox WHERE state = 'new' AND customer_id IS NOT NULL) h
    JOIN (${RUNG}) l ON l.customer_id = h.customerId
    WHERE h.at > l.at GROUP BY h.customerId`

/** Promises that broke after the last call, or on its day. */
const BROKEN = `SELECT m.customer_id AS customerId FROM promise m JOIN promise_part p ON p.promise_id = m.id
    LEFT JOIN (SELECT customer_id, MAX(on_date) AS last FROM call_log GROUP BY customer_id) l
      ON l.customer_id = m.customer_id
    WHERE m.withdrawn_on IS NULL AND p.state IN ('broken', 'partly') AND p.until < :today
    AND p.until >= DATE_SUB(:today, INTERVAL 60 DAY) AND (l.last IS NULL OR p.until >= l.last)
    GROUP BY m.customer_id`

const callFactsRow = z.object({
  customerId: cell.whole,
  missed: cell.whole,
})

const callFactsRow2 = z.object({
  customerId: cell.whole,
  inVain: cell.whole,
})

const callFactsRow3 = z.object({
  customerId: cell.whole,
})

const callFactsLiveNoticeRow = z.object({
  customerId: cell.whole,
  on: cell.whole,
})

/** What the list looks at beside the ledger, of all customers at once. */
export async function callFacts(db: Handle, { today }: Settings): Promise<CallFacts[]> {
  const values = { today }
  const [called, missed, inVain, happened, broken, reminded, held, paused] = await Promise.all([
    db.rows(calledCells, CALLED),
    db.rows(callFactsRow, MISSED),
    db.rows(callFactsRow2, IN_VAIN, values),
    db.rows(callFactsRow3, HAPPENED, values),
    db.rows(callFactsRow3, BROKEN, values),
    db.rows(
      callFactsLiveNoticeRow,
      `SELECT customer_id AS customerId, ${days('MAX(on_date)')} AS \`on\` FROM live_notice
        WHERE on_date >= DATE_SUB(:today, INTERVAL 30 DAY) GROUP BY customer_id`,
      values,
    ),
    db.find('hold', { ended_at: null }, { columns: { customerId: 'customer_id' }, distinct: true }),
    db.find(
      'pause',
      { ended: 0, item_id: null, until_date: { [Op.gte]: values.today } },
      { columns: { customerId: 'customer_id' }, distinct: true },
    ),
  ])
  const facts = new Map<number, CallFacts>()
  const of = (customerId: number): CallFacts => {
    const known = facts.get(customerId)
    if (known) return known
    const fresh: CallFacts = {
      customerId,
      reachedOn: null,
      calledOn: null,
      nextOn: null,
      missed: 0,
      remindedOn: null,
      brokenPromise: false,
      inVain: 0,
      held: false,
      happened: false,
      paused: false,
    }
    facts.set(customerId, fresh)
    return fresh
  }
  for (const { customerId, calledOn, reachedOn, nextOn } of called)
    Object.assign(of(customerId), { calledOn, reachedOn, nextOn })
  for (const row of missed) of(row.customerId).missed = Number(row.missed)
  for (const row of inVain) of(row.customerId).inVain = Number(row.inVain)
  for (const row of happened) of(row.customerId).happened = true
  for (const row of broken) of(row.customerId).brokenPromise = true
  for (const row of reminded) of(row.customerId).remindedOn = row.on
  for (const row of held) of(row.customerId).held = true
  for (const row of paused) of(row.customerId).paused = true
  return [...facts.values()]
}

/** Items that open promises speak of. */
export async function promisedItemIds(db: Handle, settings: Settings): Promise<number[]> {
  const customers = await db.find(
    'promise',
    { state: 'open' },
    { columns: { id: 'customer_id' }, distinct: true },
  )
  const ids = customers.map(c => c.id)
  const promises = await openPromises(db, settings, ids)
  if (!promises.length) return []
  const open = await db.find(
    'open_item',
    { customer_id: ids, open: { [Op.gt]: 0 } },
    {
      columns: {
        customerId: 'customer_id',
        itemId: 'item_id',
        currency: 'currency',
        open: 'open',
        dueDate: 'due_date',
      },
    },
  )
  const byCustomer = new Map<number, typeof open>()
  for (const row of open) byCustomer.set(row.customerId, [...(byCustomer.get(row.customerId) ?? []), row])
  return promises.flatMap(({ customerId, promised, stand }) =>
    coveredItems(promised, stand, byCustomer.get(customerId) ?? []),
  )
}

const disputedAmountsRow = z.object({
  itemId: cell.whole,
  amount: cell.sum,
})

/** What of items is disputed, base currency. */
export async function disputedAmounts(db: Handle): Promise<[number, number][]> {
  const rows = await db.rows(
    disputedAmountsRow,
    `SELECT t.item_id AS itemId, LEAST(SUM(ROUND(o.base_open * LEAST(t.amount, o.open) / o.open)), o.base_open) AS amount
      FROM dispute d LEFT JOIN deduction e ON e.id = d.deduction_id JOIN dispute_item t ON t.dispute_id = d.id
      JOIN open_item o ON o.item_id = t.item_id WHERE o.open > 0 AND ${DISPUTE_LIVES} GROUP BY t.item_id`,
  )
  return rows.map(r => [r.itemId, Number(r.amount)])
}

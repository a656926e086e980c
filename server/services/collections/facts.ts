import { z } from 'zod'
import type { CollectionPolicy, Debtor, DueItem, Mandate } from '../../../core/collections'
import { ON_ITS_WAY_SQL } from '../../../core/collections'
import { ITEM_KINDS, KINDS } from '../../../core/ledger'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import type { Settings } from '../../db/settings'
import { INHERITED, WITH_CLASS } from '../accounts/inherited'
import { disputesOfCustomers } from '../disputes/live'
import { promisedItems } from '../reminders/facts'

/** How the house collects, of all its settings. */
export const policyOf = ({ paymentPolicy: p, receiptPolicy }: Settings): CollectionPolicy => ({
  noticeDays: p.noticeDays,
  creditsFirst: p.creditsFirst,
  withCharges: p.withCharges,
  graceDays: receiptPolicy.discountGraceDays,
  least: p.least,
})

const debtorIdsRow = z.object({
  id: cell.whole,
})

/** Customers that are looked at: who pays by direct debit, or has a mandate, with anything open in euro. */
export async function debtorIds(database: Handle): Promise<number[]> {
  const rows = await database.rows(
    debtorIdsRow,
    `SELECT c.id FROM customer c ${WITH_CLASS} WHERE c.merged_into IS NULL
      AND (${INHERITED.method} = 'direct-debit' OR c.id IN (SELECT customer_id FROM mandate WHERE state = 'active'))
      AND c.id IN (SELECT customer_id FROM open_item WHERE open > 0) ORDER BY c.number`,
  )
  return rows.map(r => r.id)
}

const MANDATES = `SELECT customer_id AS customerId, id, reference, scheme, used_for AS \`use\`, signed_on AS signedOn,
    iban, bic, holder, state, last_used AS lastUsed, most, notice_days AS noticeDays, ends_next AS endsNext
  FROM mandate WHERE customer_id IN (:ids) ORDER BY signed_on DESC, id DESC`

const itemCells = z.object({
  customerId: cell.whole,
  id: cell.whole,
  number: cell.text,
  kind: z.enum(ITEM_KINDS),
  currency: cell.text,
  open: cell.sum,
  amount: cell.whole,
  dueDate: cell.day,
  d1: cell.day.nullable(),
  a1: cell.whole.nullable(),
  d2: cell.day.nullable(),
  a2: cell.whole.nullable(),
  onItsWay: cell.text.nullable(),
})

const ITEMS = `SELECT o.customer_id AS customerId, i.id, i.number, i.kind, i.currency, o.open, i.amount,
    i.due_date AS dueDate, i.discount_date AS d1, i.discount_amount AS a1, i.discount2_date AS d2,
    i.discount2_amount AS a2,
    (SELECT MIN(k.number) FROM collection_item t JOIN collection k ON k.id = t.collection_id
      WHERE t.item_id = i.id AND k.state IN (${ON_ITS_WAY_SQL})) AS onItsWay
  FROM open_item o JOIN item i ON i.id = o.item_id WHERE o.customer_id IN (:ids) ORDER BY i.due_date, i.id`

const debtorsOfRow = z.object({
  id: cell.whole,
  number: cell.text,
  name: cell.text,
  method: cell.text,
  stopped: cell.text,
})

const debtorsOfRow2 = z.object({
  customerId: cell.whole,
  endsNext: cell.whole,
  id: cell.whole,
  iban: cell.text,
  bic: cell.text,
  reference: cell.text,
  state: z.enum(['active', 'suspended', 'cancelled', 'final']),
  scheme: z.enum(['CORE', 'B2B']),
  holder: cell.text,
  most: cell.whole.nullable(),
  use: z.enum(['recurring', 'one-off']),
  signedOn: cell.text,
  lastUsed: cell.text.nullable(),
  noticeDays: cell.whole.nullable(),
})

/** All that a collection asks of some customers, in the order of their numbers. */
export async function debtorsOf(
  database: Handle,
  settings: Settings,
  ids: readonly number[],
): Promise<Debtor[]> {
  if (!ids.length) return []
  const [customers, mandates, rows, disputes] = await Promise.all([
    database.rows(
      debtorsOfRow,
      `SELECT c.id, c.number, c.name, ${INHERITED.method} AS method,
        COALESCE(IF(c.closed_on IS NULL, NULL, CONCAT('the account was closed on ', c.closed_on)),
          (SELECT CONCAT('handed over to ', h.agency, ' on ', h.on_date) FROM handover h
            WHERE h.customer_id = c.id AND h.ended_on IS NULL ORDER BY h.id LIMIT 1), '') AS stopped
        FROM customer c ${WITH_CLASS} WHERE c.id IN (:ids) ORDER BY c.number`,
      { ids },
    ),
    database.rows(debtorsOfRow2, MANDATES, { ids }),
    database.rows(itemCells, ITEMS, { ids }),
    disputesOfCustomers(database, ids),
  ])
  const promised = await promisedItems(database, settings, ids, rows)
  const items = new Map<number, DueItem[]>()
  for (const row of rows) {
    const own = items.get(row.customerId) ?? []
    items.set(row.customerId, own)
    const dispute = disputes.get(row.id)
    own.push({
      id: row.id,
      number: row.number,
      currency: row.currency,
      open: int(row.open),
      amount: row.amount,
      dueDate: row.dueDate,
      discounts: discountsOf(row),
      isCharge: KINDS[row.kind].remindable === 'along',
      disputed: dispute ? { reason: dispute.label.toLowerCase(), amount: dispute.amount } : null,
      promised: promised.get(row.id) ?? null,
      onItsWay: row.onItsWay,
    })
  }
  const ofCustomer = new Map<number, Mandate[]>()
  for (const { customerId, endsNext, ...mandate } of mandates) {
    const own = ofCustomer.get(customerId) ?? []
    ofCustomer.set(customerId, own)
    own.push({ ...mandate, endsNext: Boolean(endsNext) })
  }
  return customers.map(c => ({
    customerId: c.id,
    number: c.number,
    name: c.name,
    pays: c.method === 'direct-debit',
    stopped: c.stopped,
    mandates: ofCustomer.get(c.id) ?? [],
    items: items.get(c.id) ?? [],
  }))
}

function discountsOf({ d1, a1, d2, a2 }: z.output<typeof itemCells>): DueItem['discounts'] {
  const steps = [
    { date: d1, amount: a1 },
    { date: d2, amount: a2 },
  ]
  return steps.flatMap(({ date, amount }) => (date !== null && amount !== null ? [{ date, amount }] : []))
}

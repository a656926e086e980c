import { z } from 'zod'
import { cell } from '../../db/rows'
import type { LineAction, LineState } from '../../../core/banking'
import type { LedgerState } from '../../../core/ledger'
import { kindList } from '../../../core/ledger'
import type { PaidPart } from '../../../core/receipts'
import { lineAction } from '../../../contract/banking/lines'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { loadLines as loadItemLines, loadState } from '../../ledger/load'
import type { Locks } from '../../ledger/locks'
import { findCustomers, type Customer } from '../accounts/customers'
import { ProblemError } from '../common/problems'
import { loadLines, type LineRow } from './lines'
import { loadCovered, settledBy, type CoveredRow } from './world'

export type ActionIn = z.output<typeof lineAction>

/** A line with what somebody, or a rule, says it is. */
export interface Asked {
  id: number
  version: number
  action: ActionIn
}

/** What a bank can send back: money that came in, and refunds. */
const MONEY = kindList(k => k.money || k.movement === 'refunded')

const numbersIn = (asked: readonly Asked[]) => [
  ...new Set(asked.flatMap(a => (a.action.kind === 'receipt' ? a.action.parts.map(p => p.customer) : []))),
]
const targetsIn = (asked: readonly Asked[]) =>
  asked.flatMap(a => (a.action.kind === 'covered' ? a.action.targets : []))
const returnsIn = (asked: readonly Asked[]) =>
  asked.flatMap(a => (a.action.kind === 'return' ? [a.action.itemId] : []))

const locksOfRow = z.object({
  id: cell.whole,
})

/** Everything that lines and what they are said to be take hold of. */
export async function locksOf(db: Handle, asked: readonly Asked[]): Promise<Locks> {
  const ids = (kind: string) => [0, ...targetsIn(asked).flatMap(t => (t.kind === kind ? [t.id] : []))]
  const customers = await findCustomers(db, numbersIn(asked))
  const owners = await db.rows(
    locksOfRow,
    `SELECT DISTINCT i.customer_id AS id FROM item i WHERE i.id IN (:items)
      OR i.id IN (SELECT m.item_id FROM receipt_means m WHERE m.id IN (:means))`,
    { items: [...ids('reversal'), ...ids('refund'), ...returnsIn(asked)], means: ids('means') },
  )
  return {
    bankLines: asked.map(a => a.id),
    slips: ids('slip').slice(1),
    means: ids('means').slice(1),
    customers: [...[...customers.values()].map(c => c.id), ...owners.map(o => o.id)],
  }
}

export const lineState = (r: LineRow): LineState => ({
  id: r.id,
  version: r.version,
  state: r.state,
  bookingDate: r.bookingDate,
  valueDate: r.valueDate,
  currency: r.currency,
  amount: r.amount,
  account: r.account,
  name: r.name,
  text: r.text,
  reference: r.reference,
})

export interface Resolved {
  ledger: LedgerState
  rows: Map<number, LineRow>
  said: { line: LineState; version: number; action: LineAction }[]
  customers: Map<string, Customer>
  /** The account of a receipt that the bank sent back. */
  returnOf: Customer | null
}

/** Reads all that the decision about lines needs. Behind the locks, or for a Proof. */
export async function resolve(db: Handle, asked: readonly Asked[], settings: Settings): Promise<Resolved> {
  const found = await loadLines(db, 'l.id IN (:ids)', { ids: [0, ...asked.map(a => a.id)] })
  const rows = new Map(found.map(r => [r.id, r]))
  const lineOf = (id: number) => {
    const row = rows.get(id)
    if (!row) throw new ProblemError(404, 'Not found', `there is no bank line ${id}`)
    return row
  }
  const numbers = numbersIn(asked)
  const customers = await findCustomers(db, numbers)
  const unknown = numbers.find(n => !customers.has(n))
  if (unknown) throw new ProblemError(404, 'Not found', `there is no customer ${unknown}`)
  const targets = targetsIn(asked)
  const awaited = targets.length ? await loadCovered(db, null, targets) : []
  const returns = await returned(db, returnsIn(asked))

  const said = asked.map(({ id, version, action }) => {
    const row = lineOf(id)
    return {
      line: lineState(row),
      version,
      action: resolvedAction(row, action, customers, awaited, returns),
    }
  })
  const parts = said.flatMap(s => (s.action.kind === 'receipt' ? s.action.parts : []))
  const ledger = await loadState(
    db,
    {
      customerIds: [
        ...new Set([...parts.map(p => p.customerId), ...[...returns.values()].map(r => r.customerId)]),
      ],
      itemIds: parts.flatMap(p => [
        ...p.allocations.map(a => a.itemId),
        ...p.credits.flatMap(c => [c.creditItemId, c.debitItemId]),
      ]),
      linksOf: returnsIn(asked),
      rates: found.map(r => ({ currency: r.currency, date: r.bookingDate })),
    },
    settings,
  )
  const [back] = [...returns.values()]
  const returnOf = back ? ((await findCustomers(db, [back.customer])).get(back.customer) ?? null) : null
  return { ledger, rows, said, customers, returnOf }
}

interface Returned {
  customerId: number
  customer: string
  lines: Awaited<ReturnType<typeof loadItemLines>>
  unseen: boolean
}

const returnedRow = z.object({
  customerId: cell.whole,
  customer: cell.text,
})

const returnedReceiptMeansRow = z.object({
  id: cell.sum,
})

/** Receipts that lines are said to send back, with where their money was. */
async function returned(db: Handle, itemIds: readonly number[]): Promise<Map<number, Returned>> {
  const found = new Map<number, Returned>()
  for (const itemId of new Set(itemIds)) {
    const [receipt] = await db.rows(
      returnedRow,
      `SELECT i.customer_id AS customerId, c.number AS customer FROM item i
        JOIN customer c ON c.id = i.customer_id WHERE i.id = :itemId AND i.kind IN (${MONEY})`,
      { itemId },
    )
    if (!receipt) continue
    const waits = await db.rows(
      returnedReceiptMeansRow,
      `SELECT m.id FROM receipt_means m WHERE m.item_id = :itemId
        AND m.account IN (SELECT number FROM ledger_account WHERE purpose IN ('on-hand', 'clearing'))
        AND m.met = 0 AND NOT EXISTS (SELECT 1 FROM slip_means sm JOIN slip s ON s.id = sm.slip_id
          WHERE sm.means_id = m.id AND s.void_entry_id IS NULL)
      UNION ALL SELECT f.item_id FROM refund f WHERE f.item_id = :itemId AND NOT ${settledBy('refund', 'f.item_id')}`,
      { itemId },
    )
    found.set(itemId, {
      ...receipt,
      lines: await loadItemLines(db, itemId),
      unseen: waits.length > 0,
    })
  }
  return found
}

function resolvedAction(
  row: LineRow,
  action: ActionIn,
  customers: ReadonlyMap<string, Customer>,
  awaited: readonly CoveredRow[],
  returns: ReadonlyMap<number, Returned>,
): LineAction {
  switch (action.kind) {
    case 'receipt': {
      const parts: PaidPart[] = action.parts.map(p => ({
        ...p,
        customerId: customers.get(p.customer)!.id,
        amount: p.allocations.reduce((a, x) => a + (x.paid ?? x.amount), 0) + p.onAccount,
      }))
      return { kind: 'receipt', parts, lateDiscount: action.lateDiscount }
    }
    case 'covered': {
      const wanted = new Set(action.targets.map(t => `${t.kind} ${t.id}`))
      const own = awaited.filter(a => a.currency === row.currency && wanted.has(`${a.kind} ${a.id}`))
      return { kind: 'covered', targets: action.targets, awaited: own, restAccount: action.restAccount }
    }
    case 'ledger':
      return { kind: 'ledger', account: action.account }
    case 'return': {
      const back = returns.get(action.itemId)
      return {
        kind: 'return',
        itemId: back ? action.itemId : 0,
        reason: action.reason,
        fee: action.fee,
        charge: action.charge,
        lines: back?.lines ?? [],
        unseen: back?.unseen ?? false,
      }
    }
  }
}

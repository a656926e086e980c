import type { Item, LedgerState, Posting, StateItem } from '../../core/ledger'
import { chunksOf, type Statement } from '../db/handle'

const CHUNK = 2000

/** What was open of an item before the postings; one that was not there is not in it. */
export type Before = ReadonlyMap<number, { open: number; baseOpen: number }>

/** Adds to the figures of rows, making those that are missing. */
function addingTo(
  table: string,
  keys: string[],
  figures: string[],
  rows: (string | number)[][],
): Statement[] {
  const columns = [...keys, ...figures]
  const one = `(${columns.map(() => '?').join(', ')})`
  const adds = figures.map(f => `${f} = ${f} + VALUES(${f})`).join(', ')
  return chunksOf(rows, CHUNK).map(chunk => ({
    sql: `INSERT INTO ${table} (${columns.join(', ')}) VALUES ${chunk.map(() => one).join(', ')}
      ON DUPLICATE KEY UPDATE ${adds}`,
    values: chunk.flat(),
  }))
}

/** Adds the lines to the daily movement of their ledger accounts. */
export function projectDays(postings: readonly Posting[]): Statement[] {
  const days = new Map<string, [string, string, string, number, number]>()
  for (const { date, lines } of postings) {
    for (const line of lines) {
      const key = `${line.account} ${date} ${line.currency}`
      const [, , , amount, base] = days.get(key) ?? [line.account, date, line.currency, 0, 0]
      days.set(key, [line.account, date, line.currency, amount + line.amount, base + line.baseAmount])
    }
  }
  const rows = [...days.keys()].sort().map(k => days.get(k)!)
  return addingTo('account_day', ['account', 'date', 'currency'], ['amount', 'base_amount'], rows)
}

const OPEN_COLUMNS = [
  'item_id',
  'customer_id',
  'currency',
  'due_date',
  'document_date',
  'posting_date',
  'open',
  'base_open',
]

/** Brings the open items to what the touched ones now are. */
export function projectOpen(items: readonly StateItem[], before: Before): Statement[] {
  const open = items.filter(i => i.open !== 0)
  const closed = items.filter(i => i.open === 0 && (before.get(i.id)?.open ?? 0) !== 0)
  const one = `(${OPEN_COLUMNS.map(() => '?').join(', ')})`
  const puts = chunksOf(open, CHUNK).map(chunk => ({
    sql: `INSERT INTO open_item (${OPEN_COLUMNS.join(', ')}) VALUES ${chunk.map(() => one).join(', ')}
      ON DUPLICATE KEY UPDATE open = VALUES(open), base_open = VALUES(base_open)`,
    values: chunk.flatMap(i => {
      const sign = i.side === 'debit' ? 1 : -1
      const dates = [i.dueDate, i.documentDate, i.postingDate]
      return [i.id, i.customerId, i.currency, ...dates, sign * i.open, sign * i.baseOpen]
    }),
  }))
  const takes = chunksOf(closed, CHUNK).map(chunk => ({
    sql: `DELETE FROM open_item WHERE item_id IN (${chunk.map(() => '?').join(', ')})`,
    values: chunk.map(i => i.id),
  }))
  return [...puts, ...takes]
}

interface Total {
  customerId: number
  currency: string
  debit: number
  credit: number
  baseDebit: number
  baseCredit: number
}

/** Adds what the postings open, and takes off what they use, on the totals of the accounts. */
export function projectTotals(state: LedgerState, postings: readonly Posting[]): Statement[] {
  const totals = new Map<string, Total>()
  const add = (item: Pick<Item, 'customerId' | 'currency' | 'side'>, amount: number, base: number): void => {
    const { customerId, currency } = item
    const key = `${customerId} ${currency}`
    const total = totals.get(key) ?? {
      customerId,
      currency,
      debit: 0,
      credit: 0,
      baseDebit: 0,
      baseCredit: 0,
    }
    total[item.side] += amount
    total[item.side === 'debit' ? 'baseDebit' : 'baseCredit'] += base
    totals.set(key, total)
  }
  for (const { items, allocations } of postings) {
    const own = new Map(items.map(i => [i.id, i]))
    const itemOf = (id: number) => (id < 0 ? own.get(id)! : state.items.get(id)!)
    for (const i of items) add(i, i.amount, i.baseAmount)
    for (const a of allocations) {
      add(itemOf(a.debitItemId), -a.amount, -a.debitBase)
      add(itemOf(a.creditItemId), -a.amount, -a.creditBase)
    }
  }
  const rows = [...totals.values()]
    .sort((a, b) => a.customerId - b.customerId || (a.currency < b.currency ? -1 : 1))
    .map(t => [t.customerId, t.currency, t.debit, t.credit, t.baseDebit, t.baseCredit])
  const figures = ['debit', 'credit', 'base_debit', 'base_credit']
  return addingTo('account_total', ['customer_id', 'currency'], figures, rows)
}

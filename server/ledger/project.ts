import type { Posting, StateItem } from '../../core/ledger'
import type { Handle } from '../db/handle'

const CHUNK = 2000

/** What was open of an item before the postings. */
export type Before = ReadonlyMap<number, { open: number; baseOpen: number }>

/** Adds to the figures of rows, making those that are missing. */
async function addTo(
  tx: Handle,
  table: string,
  keys: string[],
  figures: string[],
  rows: (string | number)[][],
): Promise<void> {
  const columns = [...keys, ...figures]
  const one = `(${columns.map(() => '?').join(', ')})`
  const adds = figures.map(f => `${f} = ${f} + VALUES(${f})`).join(', ')
  for (let at = 0; at < rows.length; at += CHUNK) {
    const chunk = rows.slice(at, at + CHUNK)
    await tx.run(
      `INSERT INTO ${table} (${columns.join(', ')}) VALUES ${chunk.map(() => one).join(', ')}
        ON DUPLICATE KEY UPDATE ${adds}`,
      chunk.flat(),
    )
  }
}

/** Adds the lines to the daily movement of their ledger accounts. */
export async function projectDays(tx: Handle, postings: readonly Posting[]): Promise<void> {
  const days = new Map<string, [string, string, string, number, number]>()
  for (const { date, lines } of postings) {
    for (const line of lines) {
      const key = `${line.account} ${date} ${line.currency}`
      const [, , , amount, base] = days.get(key) ?? [line.account, date, line.currency, 0, 0]
      days.set(key, [line.account, date, line.currency, amount + line.amount, base + line.baseAmount])
    }
  }
  const rows = [...days.keys()].sort().map(k => days.get(k)!)
  await addTo(tx, 'account_day', ['account', 'date', 'currency'], ['amount', 'base_amount'], rows)
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
async function projectOpen(tx: Handle, items: readonly StateItem[], before: Before): Promise<void> {
  const open = items.filter(i => i.open !== 0)
  const one = `(${OPEN_COLUMNS.map(() => '?').join(', ')})`
  for (let at = 0; at < open.length; at += CHUNK) {
    const chunk = open.slice(at, at + CHUNK)
    await tx.run(
      `INSERT INTO open_item (${OPEN_COLUMNS.join(', ')}) VALUES ${chunk.map(() => one).join(', ')}
        ON DUPLICATE KEY UPDATE open = VALUES(open), base_open = VALUES(base_open)`,
      chunk.flatMap(i => {
        const sign = i.side === 'debit' ? 1 : -1
        const dates = [i.dueDate, i.documentDate, i.postingDate]
        return [i.id, i.customerId, i.currency, ...dates, sign * i.open, sign * i.baseOpen]
      }),
    )
  }
  const closed = items.filter(i => i.open === 0 && before.get(i.id)!.open !== 0).map(i => i.id)
  for (let at = 0; at < closed.length; at += CHUNK) {
    await tx.run('DELETE FROM open_item WHERE item_id IN (:ids)', { ids: closed.slice(at, at + CHUNK) })
  }
}

/** Brings the open items and the totals of the accounts to what the touched items now are. */
export async function projectItems(tx: Handle, items: readonly StateItem[], before: Before): Promise<void> {
  await projectOpen(tx, items, before)
  const totals = new Map<string, { debit: number; credit: number; base_debit: number; base_credit: number }>()
  const keys = new Map<string, [number, string]>()
  for (const item of items) {
    const was = before.get(item.id)!
    const key = `${item.customerId} ${item.currency}`
    const total = totals.get(key) ?? { debit: 0, credit: 0, base_debit: 0, base_credit: 0 }
    total[item.side] += item.open - was.open
    total[`base_${item.side}`] += item.baseOpen - was.baseOpen
    totals.set(key, total)
    keys.set(key, [item.customerId, item.currency])
  }
  const rows = [...totals]
    .map(([key, t]) => [...keys.get(key)!, t.debit, t.credit, t.base_debit, t.base_credit])
    .sort((a, b) => Number(a[0]) - Number(b[0]) || (a[1]! < b[1]! ? -1 : 1))
  const figures = ['debit', 'credit', 'base_debit', 'base_credit']
  await addTo(tx, 'account_total', ['customer_id', 'currency'], figures, rows)
}

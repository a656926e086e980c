import { z } from 'zod'
import { cell } from '../../db/rows'
import { age } from '../../../core/aging'
import { mergePostings, type LedgerState, type Means, type Posting } from '../../../core/ledger'
import type { Proof } from '../../../contract/receipts'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { wouldDecide, type By, type Command, type WithLedger } from '../../ledger/command'
import { exposureOf } from '../../../core/exposure'
import { NoRate } from '../../ledger/rates'
import type { Customer } from '../accounts/customers'
import { standingsOf } from '../exposure/standing'

/** A state that belongs to one account can show what the posting does to it. */
interface OfAccount extends WithLedger {
  customer?: Customer | null
}

/** What a Command would post and change: the same postings, not written. */
export async function prove<S extends z.ZodType, State extends OfAccount, R, F, A extends By>(
  database: Handle,
  actor: A,
  what: Command<S, State, R, F, A>,
  ask: z.input<S>,
): Promise<Proof> {
  const { settings, state, decided, warnings } = await wouldDecide(database, actor, what, ask)
  const nothing = { base: settings.base, lines: [], changes: null, warnings, links: [] }
  if (!decided.ok) return { ok: false, refusals: decided.refusals, ...nothing }
  const [first] = decided.postings
  if (!first) return { ok: true, refusals: [], ...nothing }
  const posting = mergePostings(first.kind, first.date, first.text, decided.postings)
  const { ledger, customer } = state
  return {
    ok: true,
    refusals: [],
    base: settings.base,
    warnings,
    lines: await linesOf(database, posting, ledger),
    changes: customer ? await changesOf(database, customer, posting, settings) : null,
    links: posting.allocations
      .filter(a => a.undoesId !== null)
      .flatMap(a => {
        const credit = ledger.items.get(a.creditItemId)
        const debit = ledger.items.get(a.debitItemId)
        if (!credit || !debit) return []
        const { kind, number: from } = credit
        const { number: to, currency } = debit
        return [{ allocationId: a.undoesId!, kind, from, to, amount: -a.amount, currency }]
      }),
  }
}

/** Lines summed by account for reading; the part of a receipt that stays on account is told apart. */
async function linesOf(database: Handle, posting: Posting, state: LedgerState): Promise<Proof['lines']> {
  const accounts = await database.find('ledger_account', {}, { columns: ['number', 'name'] })
  const names = new Map(accounts.map(a => [a.number, a.name]))
  const merged = new Map<string, Proof['lines'][number]>()
  const add = (account: string, note: string, currency: string, amount: number, baseAmount: number) => {
    const key = `${account} ${note} ${currency}`
    const fresh = { account, name: names.get(account) ?? account, note, currency, amount: 0, baseAmount: 0 }
    const line = merged.get(key) ?? fresh
    merged.set(key, { ...line, amount: line.amount + amount, baseAmount: line.baseAmount + baseAmount })
  }
  const receipt = posting.items.find(i => i.kind === 'receipt')
  const assigned = posting.allocations.filter(a => a.creditItemId === receipt?.id)
  const { receivables, exchange } = state.chart
  for (const line of posting.lines) {
    if (receipt && line.account === receivables && line.item === receipt.id) {
      const amount = assigned.reduce((a, x) => a + x.amount, 0)
      const base = assigned.reduce((a, x) => a + x.creditBase, 0)
      if (amount) add(line.account, '', line.currency, -amount, -base)
      if (-line.amount - amount)
        add(line.account, 'on account', line.currency, line.amount + amount, line.baseAmount + base)
    } else {
      const note = line.allocation === null || line.account === exchange ? '' : 'exchange'
      add(line.account, note, line.currency, line.amount, line.baseAmount)
    }
  }
  return [...merged.values()].filter(l => l.amount || l.baseAmount)
}

async function changesOf(
  database: Handle,
  customer: Customer,
  posting: Posting,
  settings: Settings,
): Promise<Proof['changes']> {
  const rows = await database.find(
    'open_item',
    { customer_id: customer.id },
    { columns: { id: 'item_id', open: 'base_open', date: 'due_date' } },
  )
  const items = new Map(rows.map(r => [r.id, { open: int(r.open), date: r.date }]))
  const before = age(items.values(), settings.today, settings.buckets)
  const own = posting.items.filter(i => i.customerId === customer.id)
  for (const i of own)
    items.set(i.id, { open: i.side === 'debit' ? i.baseAmount : -i.baseAmount, date: i.dueDate })
  const closed = await closedItems(database, customer.id, posting, items)
  const move = (id: number, by: number) => {
    const item = items.get(id) ?? closed.get(id)
    if (item) items.set(id, { ...item, open: item.open + by })
  }
  for (const a of posting.allocations) {
    move(a.debitItemId, -a.debitBase)
    move(a.creditItemId, a.creditBase)
  }
  const after = age(items.values(), settings.today, settings.buckets)
  return {
    open: [before.total, after.total],
    strata: [before.amounts, after.amounts],
    onAccount: [before.onAccount, after.onAccount],
    headroom: await headroomOf(database, customer, posting, settings, after.total - before.total),
    exchange: posting.allocations.reduce((a, x) => a + x.creditBase - x.debitBase, 0),
  }
}

/**
 * What is left under the limit, before and after, by exposure as everywhere. `change`: of what is
 * open. A cheque or direct debit is not final yet: what it pays stays at risk. Null without a limit, or
 * when a rate is missing.
 */
async function headroomOf(
  database: Handle,
  customer: Customer,
  posting: Posting,
  settings: Settings,
  change: number,
): Promise<[number, number] | null> {
  try {
    const standing = (await standingsOf(database, settings, [customer.id])).get(customer.id)
    if (!standing || standing.limit === null) return null
    const { exposure, limit, facts } = standing
    const { secured: _, ...parts } = exposure.parts
    const notYet = posting.items.flatMap(i => i.means.filter(m => NOT_FINAL.includes(m.means)))
    const more = notYet.reduce((sum, m) => sum + m.baseAmount, 0)
    const notFinal = parts.notFinal + more - (await takenBack(database, posting))
    const after = exposureOf({ ...parts, receivables: parts.receivables + change, notFinal }, facts.insured)
    return [limit - exposure.total, limit - after.total]
  } catch (error) {
    if (error instanceof NoRate) return null
    throw error
  }
}

const NOT_FINAL: readonly Means[] = ['cheque', 'debit']

const takenBackRow = z.object({
  amount: cell.sum,
})

/** What of receipts that a posting reverses was not final: cheques that the bank has not shown, debits. */
async function takenBack(database: Handle, posting: Posting): Promise<number> {
  const ids = posting.items.flatMap(i => (i.reversesItemId === null ? [] : [i.reversesItemId]))
  if (!ids.length) return 0
  const [row] = await database.rows(
    takenBackRow,
    `SELECT SUM(base_amount) AS amount FROM receipt_means
      WHERE item_id IN (:ids) AND (means = 'debit' OR (means = 'cheque' AND met = 0))`,
    { ids },
  )
  return int(row!.amount)
}

/** Items of the account that are closed now and would be open again, with their due dates. */
async function closedItems(
  database: Handle,
  customerId: number,
  posting: Posting,
  known: ReadonlyMap<number, unknown>,
): Promise<Map<number, { open: number; date: string }>> {
  const ids = posting.allocations
    .flatMap(a => [a.debitItemId, a.creditItemId])
    .filter(id => id > 0 && !known.has(id))
  if (!ids.length) return new Map()
  const rows = await database.find(
    'item',
    { id: ids, customer_id: customerId },
    { columns: { id: 'id', date: 'due_date' } },
  )
  return new Map(rows.map(r => [r.id, { open: 0, date: r.date }]))
}

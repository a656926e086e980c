import { z } from 'zod'
import { cell } from '../db/rows'
import type { Handle } from '../db/handle'
import type { IsoDate } from '../../core/calendar'
import type { Item, LedgerState, Line, Move, StateAllocation, StateItem } from '../../core/ledger'
import { int } from '../db/connection'
import type { Settings } from '../db/settings'
import { loadChart } from './chart'
import { loadRates } from './rates'

export interface Wanted {
  customerIds: number[]
  itemIds?: number[]
  allocationIds?: number[]
  /** Also load every link of these items, and the items at their other ends. */
  linksOf?: number[]
  /** Rates that the decision may ask for; the one in force is loaded, if there is one. */
  rates?: { currency: string; date: IsoDate }[]
}

type ItemRow = Omit<Item, 'discounts'> & {
  open: number
  baseOpen: number
  reversed: number
  d1: string | null
  a1: number | null
  d2: string | null
  a2: number | null
}

const ITEM = `i.id, i.customer_id AS customerId, i.kind, i.number, i.part, i.currency, i.side, i.amount,
  i.base_amount AS baseAmount,
  i.document_date AS documentDate, i.due_date AS dueDate, i.posting_date AS postingDate,
  i.reverses_item_id AS reversesItemId, i.born_of_item_id AS bornOfItemId, i.tax,
  i.discount_date AS d1, i.discount_amount AS a1, i.discount2_date AS d2, i.discount2_amount AS a2`

const ALLOCATION = `a.id, a.debit_item_id AS debitItemId, a.credit_item_id AS creditItemId, a.amount,
  a.debit_base AS debitBase, a.credit_base AS creditBase,
  a.effective, a.undoes_id AS undoesId, EXISTS (SELECT 1 FROM allocation u
    WHERE u.undoes_id = a.id) AS undone`

/** What the allocations of items took off, by day. */
const MOVES = `SELECT id, effective, SUM(amount) AS amount FROM (
    SELECT debit_item_id AS id, effective, amount FROM allocation WHERE debit_item_id IN (:ids)
    UNION ALL SELECT credit_item_id, effective, amount FROM allocation WHERE credit_item_id IN (:ids)
  ) ends GROUP BY id, effective`

const loadItemsRow = z.object({
  effective: cell.day.nullable(),
  moved: cell.sum,
  number: cell.text,
  id: cell.whole,
  currency: cell.text,
  amount: cell.whole,
  baseAmount: cell.whole,
  tax: cell.whole,
  customerId: cell.whole,
  kind: z.enum([
    'receipt',
    'compensation',
    'discount',
    'difference',
    'write-off',
    'recovery',
    'invoice',
    'credit-note',
    'debit-note',
    'fee',
    'interest',
    'charge',
    'advance',
    'refund',
    'lapse',
    'sale',
    'commission',
    'passed-on',
    'conversion',
    'reversal',
  ]),
  part: cell.whole,
  side: z.enum(['debit', 'credit']),
  documentDate: cell.text,
  dueDate: cell.text,
  postingDate: cell.text,
  reversesItemId: cell.whole.nullable(),
  bornOfItemId: cell.whole.nullable(),
  open: cell.whole,
  baseOpen: cell.whole,
  reversed: cell.whole,
  d1: cell.text.nullable(),
  a1: cell.whole.nullable(),
  d2: cell.text.nullable(),
  a2: cell.whole.nullable(),
})

export async function loadItems(database: Handle, ids: readonly number[]): Promise<StateItem[]> {
  const items = new Map<number, ReturnType<typeof itemOf>>()
  for (let at = 0; at < ids.length; at += 5000) {
    const rows = await database.rows(
      loadItemsRow,
      `SELECT ${ITEM}, COALESCE(ABS(o.open), 0) AS open, COALESCE(ABS(o.base_open), 0) AS baseOpen,
        EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id) AS reversed,
        m.effective, m.amount AS moved
      FROM item i LEFT JOIN open_item o ON o.item_id = i.id LEFT JOIN (${MOVES}) m ON m.id = i.id
      WHERE i.id IN (:ids)`,
      { ids: ids.slice(at, at + 5000) },
    )
    for (const { effective, moved, ...row } of rows) {
      const item = items.get(row.id) ?? itemOf(row)
      if (effective !== null) item.moves.push({ effective, amount: int(moved) })
      items.set(row.id, item)
    }
  }
  return [...items.values()]
}

function itemOf({ d1, a1, d2, a2, ...row }: ItemRow): Omit<StateItem, 'moves'> & { moves: Move[] } {
  const steps = [
    { date: d1, amount: a1 },
    { date: d2, amount: a2 },
  ]
  return {
    ...row,
    discounts: steps.filter(
      (d): d is { date: string; amount: number } => d.date !== null && d.amount !== null,
    ),
    open: int(row.open),
    baseOpen: int(row.baseOpen),
    reversed: Boolean(row.reversed),
    moves: [],
  }
}

async function loadAllocations(
  database: Handle,
  where: string,
  ids: readonly number[],
): Promise<StateAllocation[]> {
  if (!ids.length) return []
  const rows = await database.select<StateAllocation>(
    `SELECT ${ALLOCATION} FROM allocation a WHERE ${where}`,
    { ids },
  )
  return rows.map(r => ({ ...r, undone: Boolean(r.undone) }))
}

/** The lines an item was posted with, without those of its allocations. */
export function loadLines(database: Handle, itemId: number): Promise<Line[]> {
  return database.find(
    'journal_line',
    { item_id: itemId, allocation_id: null },
    {
      columns: {
        account: 'account',
        currency: 'currency',
        amount: 'amount',
        baseAmount: 'base_amount',
        customerId: 'customer_id',
        item: 'item_id',
        allocation: 'allocation_id',
      },
      order: ['id'],
    },
  )
}

/** The same for many items at once. */
export async function loadLinesOf(
  database: Handle,
  itemIds: readonly number[],
): Promise<Map<number, Line[]>> {
  const byItem = new Map<number, Line[]>()
  if (!itemIds.length) return byItem
  const rows = await database.find(
    'journal_line',
    { item_id: itemIds, allocation_id: null },
    {
      columns: {
        account: 'account',
        currency: 'currency',
        amount: 'amount',
        baseAmount: 'base_amount',
        customerId: 'customer_id',
        item: 'item_id',
        allocation: 'allocation_id',
      },
      order: ['id'],
    },
  )
  for (const line of rows) byItem.set(line.item!, [...(byItem.get(line.item!) ?? []), line])
  return byItem
}

/** The part of the ledger a decision needs; inside the door's transaction the accounts are locked first. */
export async function loadState(database: Handle, wanted: Wanted, settings: Settings): Promise<LedgerState> {
  const linked = await loadAllocations(
    database,
    'a.debit_item_id IN (:ids) OR a.credit_item_id IN (:ids)',
    wanted.linksOf ?? [],
  )
  const named = await loadAllocations(database, 'a.id IN (:ids)', wanted.allocationIds ?? [])
  const direct = [...linked, ...named]
  // What was born of the receipts concerned may have to go back with their links.
  const born = direct.length
    ? await database.find(
        'item',
        { born_of_item_id: direct.flatMap(a => [a.creditItemId, a.debitItemId]) },
        { columns: ['id'] },
      )
    : []
  const ownLinks = await loadAllocations(
    database,
    'a.credit_item_id IN (:ids)',
    born.map(b => b.id),
  )
  const lines = new Map<number, Line[]>()
  for (const { id } of born) lines.set(id, await loadLines(database, id))
  const allocations = [...direct, ...ownLinks]
  const ids = new Set([
    ...(wanted.itemIds ?? []),
    ...(wanted.linksOf ?? []),
    ...allocations.flatMap(a => [a.debitItemId, a.creditItemId]),
  ])
  const items = await loadItems(database, [...ids])
  const { chart, accounts } = await loadChart(database, settings.versions.chart)
  const customers = new Set(wanted.customerIds)
  // What belongs to other accounts stays out of sight: the core then refuses it as unknown.
  const own = new Map(items.filter(i => customers.has(i.customerId)).map(i => [i.id, i]))
  return {
    base: settings.base,
    lines,
    policy: settings.receiptPolicy,
    today: settings.today,
    closedUntil: settings.closedUntil,
    chart,
    accounts,
    rates: await loadRates(database, settings.base, wanted.rates ?? []),
    items: own,
    allocations: new Map(
      allocations.filter(a => own.has(a.debitItemId) && own.has(a.creditItemId)).map(a => [a.id, a]),
    ),
  }
}

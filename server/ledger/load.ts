import type { Handle } from '../db/handle'
import type { IsoDate } from '../../core/calendar'
import { KEPT } from '../../core/ledger'
import type { Chart, Item, LedgerState, Line, Move, StateAllocation, StateItem } from '../../core/ledger'
import { int } from '../db/connection'
import type { Settings } from '../db/settings'
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

const ITEM = `i.id, i.customer_id AS customerId, i.kind, i.number, i.part, i.currency, i.side, i.amount, i.base_amount AS baseAmount,
  i.document_date AS documentDate, i.due_date AS dueDate, i.posting_date AS postingDate, i.reverses_item_id AS reversesItemId, i.born_of_item_id AS bornOfItemId, i.tax,
  i.discount_date AS d1, i.discount_amount AS a1, i.discount2_date AS d2, i.discount2_amount AS a2`

const ALLOCATION = `a.id, a.debit_item_id AS debitItemId, a.credit_item_id AS creditItemId, a.amount,
  a.debit_base AS debitBase, a.credit_base AS creditBase,
  a.effective, a.undoes_id AS undoesId, EXISTS (SELECT 1 FROM allocation u
    WHERE u.undoes_id = a.id) AS undone`

export async function loadItems(database: Handle, ids: readonly number[]): Promise<StateItem[]> {
  const items: StateItem[] = []
  for (let at = 0; at < ids.length; at += 5000) {
    const chunk = ids.slice(at, at + 5000)
    const moves = await loadMoves(database, chunk)
    const rows = await database.select<ItemRow>(
      `
      SELECT ${ITEM}, COALESCE(ABS(o.open), 0) AS open, COALESCE(ABS(o.base_open), 0) AS baseOpen,
        EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id) AS reversed
      FROM item i LEFT JOIN open_item o ON o.item_id = i.id WHERE i.id IN (:ids)`,
      { ids: chunk },
    )
    items.push(
      ...rows.map(({ d1, a1, d2, a2, ...r }) => ({
        ...r,
        discounts: [
          { date: d1, amount: a1 },
          { date: d2, amount: a2 },
        ].filter((d): d is { date: string; amount: number } => d.date !== null && d.amount !== null),
        open: int(r.open),
        baseOpen: int(r.baseOpen),
        reversed: Boolean(r.reversed),
        moves: moves.get(r.id) ?? [],
      })),
    )
  }
  return items
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

/** The chart by purpose, and which accounts there are; those of a register are not posted to by hand. */
async function loadAccounts(database: Handle): Promise<Pick<LedgerState, 'chart' | 'accounts'>> {
  const rows = await database.select<{ purpose: keyof Chart | null; number: string; bank: number }>(
    `SELECT a.number, a.purpose, EXISTS (SELECT 1 FROM bank_account b WHERE b.account = a.number) AS bank
      FROM ledger_account a`,
  )
  const chart = Object.fromEntries(rows.flatMap(r => (r.purpose ? [[r.purpose, r.number]] : []))) as Chart
  const kept = new Set<keyof Chart | null>(KEPT)
  const accounts = new Map(
    rows.map(r => [
      r.number,
      Boolean(Number(r.bank)) || kept.has(r.purpose) ? ('kept' as const) : ('free' as const),
    ]),
  )
  return { chart, accounts }
}

/** What each item's allocations took off by day. */
async function loadMoves(database: Handle, ids: readonly number[]): Promise<Map<number, Move[]>> {
  const moves = new Map<number, Move[]>()
  if (!ids.length) return moves
  const rows = await database.select<{ id: number; effective: IsoDate; amount: unknown }>(
    `SELECT id, effective, SUM(amount) AS amount FROM (
      SELECT debit_item_id AS id, effective, amount FROM allocation WHERE debit_item_id IN (:ids)
      UNION ALL SELECT credit_item_id, effective, amount FROM allocation WHERE credit_item_id IN (:ids)
    ) moves GROUP BY id, effective`,
    { ids },
  )
  for (const { id, effective, amount } of rows)
    moves.set(id, [...(moves.get(id) ?? []), { effective, amount: int(amount) }])
  return moves
}

/** The lines an item was posted with, without those of its allocations. */
export function loadLines(database: Handle, itemId: number): Promise<Line[]> {
  return database.select<Line>(
    `
    SELECT account, currency, amount, base_amount AS baseAmount, customer_id AS customerId, item_id AS item,
      allocation_id AS allocation
    FROM journal_line WHERE item_id = :itemId AND allocation_id IS NULL ORDER BY id`,
    { itemId },
  )
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
    ? await database.select<{ id: number }>('SELECT id FROM item WHERE born_of_item_id IN (:ids)', {
        ids: direct.flatMap(a => [a.creditItemId, a.debitItemId]),
      })
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
  const customers = new Set(wanted.customerIds)
  // What belongs to other accounts stays out of sight: the core then refuses it as unknown.
  const own = new Map(items.filter(i => customers.has(i.customerId)).map(i => [i.id, i]))
  return {
    base: settings.base,
    lines,
    policy: settings.receiptPolicy,
    today: settings.today,
    closedUntil: settings.closedUntil,
    ...(await loadAccounts(database)),
    rates: await loadRates(database, settings.base, wanted.rates ?? []),
    items: own,
    allocations: new Map(
      allocations.filter(a => own.has(a.debitItemId) && own.has(a.creditItemId)).map(a => [a.id, a]),
    ),
  }
}

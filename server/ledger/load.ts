import type { Sequelize, Transaction } from 'sequelize'
import type { Chart, Item, LedgerState, Line, StateAllocation, StateItem } from '../../core/ledger'
import { int, select } from '../db/connection'
import { readSettings } from '../db/settings'

export interface Wanted {
  customerIds: number[]
  itemIds?: number[]
  allocationIds?: number[]
  /** Also load every link of these items, and the items at their other ends. */
  linksOf?: number[]
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

export async function loadItems(
  database: Sequelize,
  ids: readonly number[],
  tx?: Transaction,
): Promise<StateItem[]> {
  const items: StateItem[] = []
  for (let at = 0; at < ids.length; at += 5000) {
    const rows = await select<ItemRow>(
      database,
      `
      SELECT ${ITEM}, COALESCE(ABS(o.open), 0) AS open, COALESCE(ABS(o.base_open), 0) AS baseOpen,
        EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id) AS reversed
      FROM item i LEFT JOIN open_item o ON o.item_id = i.id WHERE i.id IN (:ids)`,
      { ids: ids.slice(at, at + 5000) },
      tx,
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
      })),
    )
  }
  return items
}

async function loadAllocations(
  database: Sequelize,
  where: string,
  ids: readonly number[],
  tx?: Transaction,
): Promise<StateAllocation[]> {
  if (!ids.length) return []
  const rows = await select<StateAllocation>(
    database,
    `SELECT ${ALLOCATION} FROM allocation a WHERE ${where}`,
    { ids },
    tx,
  )
  return rows.map(r => ({ ...r, undone: Boolean(r.undone) }))
}

export async function loadChart(database: Sequelize, tx?: Transaction): Promise<Chart> {
  const rows = await select<{ purpose: keyof Chart; number: string }>(
    database,
    'SELECT purpose, number FROM ledger_account WHERE purpose IS NOT NULL',
    {},
    tx,
  )
  return Object.fromEntries(rows.map(r => [r.purpose, r.number])) as Chart
}

/** The lines an item was posted with, without those of its allocations. */
export function loadLines(database: Sequelize, itemId: number, tx?: Transaction): Promise<Line[]> {
  return select<Line>(
    database,
    `
    SELECT account, currency, amount, base_amount AS baseAmount, customer_id AS customerId, item_id AS item,
      allocation_id AS allocation
    FROM journal_line WHERE item_id = :itemId AND allocation_id IS NULL ORDER BY id`,
    { itemId },
    tx,
  )
}

/** The part of the ledger a decision needs; inside the door's transaction the accounts are locked first. */
export async function loadState(database: Sequelize, wanted: Wanted, tx?: Transaction): Promise<LedgerState> {
  const settings = await readSettings(database, tx)
  const linked = await loadAllocations(
    database,
    'a.debit_item_id IN (:ids) OR a.credit_item_id IN (:ids)',
    wanted.linksOf ?? [],
    tx,
  )
  const named = await loadAllocations(database, 'a.id IN (:ids)', wanted.allocationIds ?? [], tx)
  const direct = [...linked, ...named]
  // What was born of the receipts concerned may have to go back with their links.
  const born = direct.length
    ? await select<{ id: number }>(
        database,
        'SELECT id FROM item WHERE born_of_item_id IN (:ids)',
        { ids: direct.flatMap(a => [a.creditItemId, a.debitItemId]) },
        tx,
      )
    : []
  const ownLinks = await loadAllocations(
    database,
    'a.credit_item_id IN (:ids)',
    born.map(b => b.id),
    tx,
  )
  const lines = new Map<number, Line[]>()
  for (const { id } of born) lines.set(id, await loadLines(database, id, tx))
  const allocations = [...direct, ...ownLinks]
  const ids = new Set([
    ...(wanted.itemIds ?? []),
    ...(wanted.linksOf ?? []),
    ...allocations.flatMap(a => [a.debitItemId, a.creditItemId]),
  ])
  const items = await loadItems(database, [...ids], tx)
  const customers = new Set(wanted.customerIds)
  // What belongs to other accounts stays out of sight: the core then refuses it as unknown.
  const own = new Map(items.filter(i => customers.has(i.customerId)).map(i => [i.id, i]))
  return {
    base: settings.base,
    lines,
    policy: settings.receiptPolicy,
    today: settings.today,
    closedUntil: settings.closedUntil,
    chart: await loadChart(database, tx),
    items: own,
    allocations: new Map(
      allocations.filter(a => own.has(a.debitItemId) && own.has(a.creditItemId)).map(a => [a.id, a]),
    ),
  }
}

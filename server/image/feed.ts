import { z } from 'zod'
import { cell } from '../db/rows'
import { KINDS, type ItemKind } from '../../core/ledger'
import { Customers, type AllocationRow, type ItemRow, type LedgerImage } from '../../core/image'
import { limitOf } from '../../core/accounts'
import { WITH_CLASS } from '../services/accounts/inherited'
import type { Handle } from '../db/handle'
import { readSettings } from '../db/settings'

/*
 * From the tables of the ledger to its image. Rows of further entries are found by the numbers of their
 * entries: these come from a series that stays locked until the commit, so an entry that is seen has none
 * before it that is not.
 */

/** So many rows are fetched at a time. */
const CHUNK = 50_000

/** Days since 1970 of a column with dates. */
const day = (column: string) => `DATEDIFF(${column}, '1970-01-01')`

const ITEMS = `SELECT i.id, i.customer_id AS customerId, i.entry_id AS entryId, i.kind,
    i.side = 'debit' AS isDebit, i.currency, i.amount, i.base_amount AS base,
    ${day('i.document_date')} AS documentDay, ${day('i.due_date')} AS dueDay,
    ${day('i.posting_date')} AS postingDay FROM item i`
const ALLOCATIONS = `SELECT a.id, a.entry_id AS entryId, a.debit_item_id AS debitId, a.credit_item_id AS creditId,
    a.amount, a.debit_base AS debitBase, a.credit_base AS creditBase,
    ${day('a.effective')} AS effectiveDay FROM allocation a`

type ItemCells = Omit<ItemRow, 'isDebit' | 'kind'> & { isDebit: number; kind: string }

function addItems(image: LedgerImage, rows: readonly ItemCells[]): void {
  for (const row of rows) {
    if (!(row.kind in KINDS)) throw new Error(`item ${row.id} is of an unknown kind`)
    image.addItem({ ...row, kind: row.kind as ItemKind, isDebit: row.isDebit === 1 })
  }
}

function addAllocations(image: LedgerImage, rows: readonly AllocationRow[]): void {
  for (const row of rows) image.addAllocation(row)
}

const lastEntryIdRow = z.object({
  id: cell.whole.nullable(),
})

/** Id of the last entry; 0 before the first. */
export async function lastEntryId(database: Handle): Promise<number> {
  const [row] = await database.rows(lastEntryIdRow, 'SELECT MAX(id) AS id FROM entry')
  return row!.id ?? 0
}

const fillRow = z.object({
  items: cell.whole,
  allocations: cell.whole,
})

/** Fills an empty image with all that was posted up to an entry. */
export async function fill(database: Handle, image: LedgerImage, until: number): Promise<void> {
  const [counts] = await database.rows(
    fillRow,
    'SELECT (SELECT COUNT(*) FROM item) AS items, (SELECT COUNT(*) FROM allocation) AS allocations',
  )
  image.reserve(Number(counts!.items), Number(counts!.allocations))
  const inParts = async <Row extends { id: number }>(
    sql: string,
    table: string,
    add: (rows: Row[]) => void,
  ) => {
    for (let last = 0; ;) {
      const rows = await database.select<Row>(
        `${sql} WHERE ${table}.id > :last AND ${table}.entry_id <= :until ORDER BY ${table}.id LIMIT ${CHUNK}`,
        { last, until },
      )
      add(rows)
      if (rows.length < CHUNK) return
      last = rows.at(-1)!.id
    }
  }
  await inParts<ItemCells>(ITEMS, 'i', rows => addItems(image, rows))
  await inParts<AllocationRow & { id: number }>(ALLOCATIONS, 'a', rows => addAllocations(image, rows))
  image.lastEntry = until
}

const extendRow = z.object({
  id: cell.whole,
  currency: cell.text,
  amount: cell.whole,
  customerId: cell.whole,
  base: cell.whole,
  entryId: cell.whole,
  documentDay: cell.whole,
  dueDay: cell.whole,
  postingDay: cell.whole,
  isDebit: cell.whole,
  kind: cell.text,
})

const extendRow2 = z.object({
  entryId: cell.whole,
  debitId: cell.whole,
  creditId: cell.whole,
  amount: cell.whole,
  debitBase: cell.whole,
  creditBase: cell.whole,
  effectiveDay: cell.whole,
})

/** Adds what was posted since, up to an entry. */
export async function extend(database: Handle, image: LedgerImage, until: number): Promise<void> {
  const values = { after: image.lastEntry, until }
  const items = await database.rows(
    extendRow,
    `${ITEMS} WHERE i.entry_id > :after AND i.entry_id <= :until ORDER BY i.id`,
    values,
  )
  const allocations = await database.rows(
    extendRow2,
    `${ALLOCATIONS} WHERE a.entry_id > :after AND a.entry_id <= :until ORDER BY a.id`,
    values,
  )
  addItems(image, items)
  addAllocations(image, allocations)
  image.lastEntry = until
}

/** The accounts of some customers alone, for a question about them in a transaction or without an image. */
export async function addAccounts(
  database: Handle,
  image: LedgerImage,
  ids: readonly number[],
): Promise<void> {
  if (!ids.length) return
  addItems(
    image,
    await database.rows(extendRow, `${ITEMS} WHERE i.customer_id IN (:ids) ORDER BY i.id`, { ids }),
  )
  addAllocations(
    image,
    await database.rows(extendRow2, `${ALLOCATIONS} WHERE a.customer_id IN (:ids) ORDER BY a.id`, {
      ids,
    }),
  )
}

const readCustomersRow = z.object({
  number: cell.text,
  id: cell.whole,
  currency: cell.text,
  name: cell.text,
  contact: cell.text,
  class: cell.text,
  country: cell.text,
  city: cell.text,
  controller: cell.text,
  score: cell.whole.nullable(),
  spread: cell.whole.nullable(),
  className: cell.text,
  controllerId: cell.whole.nullable(),
  salesId: cell.whole.nullable(),
  headId: cell.whole,
  daysLate: cell.whole.nullable(),
  usual: cell.whole.nullable(),
  payDay: cell.whole.nullable(),
  lastPaid: cell.whole.nullable(),
  isMerged: cell.whole,
  own: cell.whole.nullable(),
  ofClass: cell.whole.nullable(),
  limitCurrency: cell.text,
  limitFrom: cell.text.nullable(),
  limitUntil: cell.text.nullable(),
  insured: cell.whole.nullable(),
  insuredUntil: cell.text.nullable(),
})

/** All customers, in the order of their names. */
export async function readCustomers(database: Handle): Promise<Customers> {
  const { base } = await readSettings(database)
  const rows = await database.rows(
    readCustomersRow,
    `SELECT c.id, c.number, c.name, c.class, COALESCE(k.name, c.class) AS className, c.country, c.city,
      c.contact, c.currency, c.controller_id AS controllerId, COALESCE(p.name, '') AS controller,
      c.sales_id AS salesId, COALESCE(c.head_id, c.id) AS headId, c.merged_into IS NOT NULL AS isMerged, c.credit_limit AS own,
      k.credit_limit AS ofClass, c.limit_currency AS limitCurrency, c.limit_from AS limitFrom,
      c.limit_until AS limitUntil, c.insured_limit AS insured, c.insured_until AS insuredUntil,
      s.score, s.days_late AS daysLate, s.usual_late AS usual, s.spread, s.pay_day AS payDay,
      DATEDIFF(s.last_paid, '1970-01-01') AS lastPaid FROM customer c ${WITH_CLASS}
      LEFT JOIN person p ON p.id = c.controller_id LEFT JOIN review_score s ON s.customer_id = c.id
      ORDER BY c.name, c.number`,
  )
  return new Customers(
    rows.map(({ own, ofClass, limitCurrency, limitFrom, limitUntil, insured, insuredUntil, ...row }) => ({
      ...row,
      isMerged: Number(row.isMerged) === 1,
      limit: {
        ...limitOf({ own, ofClass, currency: limitCurrency }, base),
        from: limitFrom,
        until: limitUntil,
        insured,
        insuredUntil,
      },
    })),
  )
}

/** Records that were made one with another, in the order in which that was done. */
export const readMerges = (database: Handle): Promise<{ fromId: number; intoId: number }[]> =>
  database.find('customer_merge', {}, { columns: { fromId: 'from_id', intoId: 'into_id' }, order: ['id'] })

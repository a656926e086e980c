import type { Sequelize, Transaction } from 'sequelize'
import { assertBalanced, type LedgerState, type Posting, type StateItem } from '../../core/ledger'
import { int, select } from '../db/connection'

const CHUNK = 2000

/** What a posting became: ids by key, numbers given, and its journal entry. */
export interface Written {
  entryId: number
  entryNumber: number
  items: { id: number; number: string }[]
  allocations: number[]
}

const idStep = async (database: Sequelize, tx: Transaction): Promise<number> =>
  (await select<{ step: number }>(database, 'SELECT @@auto_increment_increment AS step', {}, tx))[0]!.step

/** Multi-row INSERT; answers the ids, consecutive by the server's increment. */
export async function insert(
  database: Sequelize,
  tx: Transaction,
  table: string,
  rows: object[],
  step?: number,
): Promise<number[]> {
  const ids: number[] = []
  if (!rows.length) return ids
  step ??= await idStep(database, tx)
  for (let at = 0; at < rows.length; at += CHUNK) {
    const chunk = rows.slice(at, at + CHUNK)
    const first = int(await database.getQueryInterface().bulkInsert(table, chunk, { transaction: tx }))
    for (let i = 0; i < chunk.length; i++) ids.push(first + i * step)
  }
  return ids
}

/** Takes n numbers from a series, without gaps: the row stays locked until the transaction ends. */
export async function takeNumbers(
  database: Sequelize,
  tx: Transaction,
  series: string,
  n: number,
): Promise<(i: number) => string> {
  const [row] = await select<{ next: number; prefix: string; width: number }>(
    database,
    'SELECT next, prefix, width FROM series WHERE name = :series FOR UPDATE',
    { series },
    tx,
  )
  if (!row) throw new Error(`number series ${series} does not exist`)
  await database.query('UPDATE series SET next = next + :n WHERE name = :series', {
    replacements: { n, series },
    transaction: tx,
  })
  return i => row.prefix + String(row.next + i).padStart(row.width, '0')
}

const registerOf = (kind: string) =>
  ['invoice', 'credit-note', 'debit-note'].includes(kind) ? 'document' : kind

/**
 * Writes postings and keeps the projections in step, inside the door's transaction. `state` is brought up to
 * date too.
 */
export async function writePostings(
  database: Sequelize,
  tx: Transaction,
  personId: number,
  state: LedgerState,
  postings: readonly Posting[],
): Promise<Written[]> {
  if (!postings.length) return []
  const step = await idStep(database, tx)
  const series = new Map<string, number>()
  for (const { items } of postings) {
    for (const item of items)
      if (item.series && !item.number) series.set(item.series, (series.get(item.series) ?? 0) + 1)
  }
  const numbers = new Map<string, { take: (i: number) => string; at: number }>()
  for (const name of [...series.keys()].sort())
    numbers.set(name, { take: await takeNumbers(database, tx, name, series.get(name)!), at: 0 })
  const entryNumber = await takeNumbers(database, tx, 'entry', postings.length)

  const entryIds = await insert(
    database,
    tx,
    'entry',
    postings.map((p, i) => {
      assertBalanced(p.lines)
      return {
        number: Number(entryNumber(i)),
        date: p.date,
        kind: p.kind,
        text: p.text.slice(0, 200),
        person_id: personId,
      }
    }),
    step,
  )
  const written: Written[] = postings.map((_, i) => ({
    entryId: entryIds[i]!,
    entryNumber: Number(entryNumber(i)),
    items: [],
    allocations: [],
  }))

  const newItems = postings.flatMap((p, i) => p.items.map(item => ({ item, p: i })))
  const itemNumbers = newItems.map(({ item }) => {
    if (item.number || !item.series) return item.number
    const from = numbers.get(item.series)!
    return from.take(from.at++)
  })
  const itemKeys = postings.map(() => new Map<number, number>())
  const originOf = (i: number) => {
    const { item, p } = newItems[i]!
    return item.bornOfItemId !== null && item.bornOfItemId < 0
      ? itemKeys[p]!.get(item.bornOfItemId)!
      : item.bornOfItemId
  }
  const itemIds: number[] = []
  // Items born of another of this batch come after it, when its id is known: a discount after its receipt, a
  // conversion's credit after its debit.
  for (let left = [...newItems.keys()]; left.length;) {
    const pass = left.filter(i => {
      const { item, p } = newItems[i]!
      return (item.bornOfItemId ?? 0) >= 0 || itemKeys[p]!.has(item.bornOfItemId!)
    })
    if (!pass.length) throw new Error('an item is born of one that is not in its posting')
    const now = new Set(pass)
    left = left.filter(i => !now.has(i))
    const ids = await insert(
      database,
      tx,
      'item',
      pass.map(i => {
        const { item, p } = newItems[i]!
        return {
          customer_id: item.customerId,
          entry_id: entryIds[p],
          kind: item.kind,
          register: registerOf(item.kind),
          number: itemNumbers[i],
          part: item.part,
          currency: item.currency,
          side: item.side,
          amount: item.amount,
          base_amount: item.baseAmount,
          tax: item.tax,
          document_date: item.documentDate,
          due_date: item.dueDate,
          posting_date: item.postingDate,
          discount_date: item.discounts[0]?.date ?? null,
          discount_amount: item.discounts[0]?.amount ?? null,
          discount2_date: item.discounts[1]?.date ?? null,
          discount2_amount: item.discounts[1]?.amount ?? null,
          order_ref: item.order,
          rest_use: item.rest?.use ?? '',
          rest_item_id: item.rest?.itemId ?? null,
          text: item.text.slice(0, 200),
          reverses_item_id: item.reversesItemId,
          born_of_item_id: originOf(i),
          person_id: personId,
        }
      }),
      step,
    )
    pass.forEach((i, n) => {
      itemIds[i] = ids[n]!
      itemKeys[newItems[i]!.p]!.set(newItems[i]!.item.id, ids[n]!)
    })
  }
  const touched = new Map<number, StateItem>()
  const before = new Map<number, { open: number; baseOpen: number }>()
  newItems.forEach(({ item, p }, i) => {
    const id = itemIds[i]!
    written[p]!.items.push({ id, number: itemNumbers[i]! })
    const real = {
      ...item,
      id,
      bornOfItemId: originOf(i),
      number: itemNumbers[i]!,
      open: item.amount,
      baseOpen: item.baseAmount,
      reversed: false,
    }
    state.items.set(id, real)
    touched.set(id, real)
    before.set(id, { open: 0, baseOpen: 0 })
    if (item.reversesItemId !== null) state.items.get(item.reversesItemId)!.reversed = true
  })
  await insert(
    database,
    tx,
    'receipt_means',
    newItems.flatMap(({ item }, i) =>
      item.means.map(({ baseAmount, ...m }) => ({ item_id: itemIds[i], base_amount: baseAmount, ...m })),
    ),
    step,
  )

  const real = (p: number, key: number) => (key < 0 ? itemKeys[p]!.get(key)! : key)
  const newAllocations = postings.flatMap((posting, p) =>
    posting.allocations.map(a => {
      const debitItemId = real(p, a.debitItemId)
      const creditItemId = real(p, a.creditItemId)
      for (const [id, base] of [
        [debitItemId, a.debitBase],
        [creditItemId, a.creditBase],
      ] as const) {
        const item = state.items.get(id)
        if (!item) throw new Error(`item ${id} is not in the locked state`)
        if (!touched.has(id)) before.set(id, { open: item.open, baseOpen: item.baseOpen })
        const next = { ...item, open: item.open - a.amount, baseOpen: item.baseOpen - base }
        if (next.open < 0 || next.open > next.amount) throw new Error(`item ${id} would be over-allocated`)
        state.items.set(id, next)
        touched.set(id, next)
      }
      return { p, key: a.id, row: { ...a, debitItemId, creditItemId } }
    }),
  )
  const allocationIds = await insert(
    database,
    tx,
    'allocation',
    newAllocations.map(({ p, row }) => ({
      customer_id: state.items.get(row.debitItemId)!.customerId,
      entry_id: entryIds[p],
      debit_item_id: row.debitItemId,
      credit_item_id: row.creditItemId,
      amount: row.amount,
      debit_base: row.debitBase,
      credit_base: row.creditBase,
      effective: row.effective,
      undoes_id: row.undoesId,
      person_id: personId,
    })),
    step,
  )
  const allocationKeys = postings.map(() => new Map<number, number>())
  newAllocations.forEach(({ p, key, row }, i) => {
    allocationKeys[p]!.set(key, allocationIds[i]!)
    written[p]!.allocations.push(allocationIds[i]!)
    state.allocations.set(allocationIds[i]!, { ...row, id: allocationIds[i]!, undone: false })
    const undone = row.undoesId === null ? undefined : state.allocations.get(row.undoesId)
    if (undone) undone.undone = true
  })

  await insert(
    database,
    tx,
    'journal_line',
    postings.flatMap((posting, p) =>
      posting.lines.map(line => ({
        entry_id: entryIds[p],
        account: line.account,
        currency: line.currency,
        amount: line.amount,
        base_amount: line.baseAmount,
        customer_id: line.customerId,
        item_id: line.item === null ? null : real(p, line.item),
        allocation_id:
          line.allocation === null
            ? null
            : line.allocation < 0
              ? allocationKeys[p]!.get(line.allocation)!
              : line.allocation,
      })),
    ),
    step,
  )
  await project(database, tx, [...touched.values()], before)
  await projectDays(database, tx, postings)
  return written
}

/** Adds the lines to the daily movement of their ledger accounts. */
async function projectDays(
  database: Sequelize,
  tx: Transaction,
  postings: readonly Posting[],
): Promise<void> {
  const days = new Map<
    string,
    {
      account: string
      date: string
      currency: string
      amount: number
      base: number
    }
  >()
  for (const { date, lines } of postings) {
    for (const line of lines) {
      const key = `${line.account} ${date} ${line.currency}`
      const day = days.get(key) ?? {
        account: line.account,
        date,
        currency: line.currency,
        amount: 0,
        base: 0,
      }
      day.amount += line.amount
      day.base += line.baseAmount
      days.set(key, day)
    }
  }
  const rows = [...days.keys()].sort().map(k => days.get(k)!)
  await upsert(
    database,
    tx,
    'account_day',
    ['account', 'date', 'currency'],
    ['amount', 'base_amount'],
    rows.map(r => [r.account, r.date, r.currency, r.amount, r.base]),
  )
}

/** Adds to the figures of rows, making those that are missing. */
async function upsert(
  database: Sequelize,
  tx: Transaction,
  table: string,
  keys: string[],
  figures: string[],
  rows: (string | number)[][],
): Promise<void> {
  const columns = [...keys, ...figures]
  for (let at = 0; at < rows.length; at += CHUNK) {
    const chunk = rows.slice(at, at + CHUNK)
    await database.query(
      `INSERT INTO ${table} (${columns.join(', ')})
      VALUES ${chunk.map(() => `(${columns.map(() => '?').join(', ')})`).join(', ')}
      ON DUPLICATE KEY UPDATE ${figures.map(f => `${f} = ${f} + VALUES(${f})`).join(', ')}`,
      { replacements: chunk.flat(), transaction: tx },
    )
  }
}

/** Brings the open items and account totals to what the items touched now are. */
async function project(
  database: Sequelize,
  tx: Transaction,
  items: StateItem[],
  before: Map<number, { open: number; baseOpen: number }>,
): Promise<void> {
  const query = database.getQueryInterface()
  const open = items.filter(i => i.open !== 0)
  const closed = items.filter(i => i.open === 0 && before.get(i.id)!.open !== 0).map(i => i.id)
  for (let at = 0; at < open.length; at += CHUNK) {
    await query.bulkInsert(
      'open_item',
      open.slice(at, at + CHUNK).map(i => {
        const sign = i.side === 'debit' ? 1 : -1
        return {
          item_id: i.id,
          customer_id: i.customerId,
          currency: i.currency,
          due_date: i.dueDate,
          document_date: i.documentDate,
          posting_date: i.postingDate,
          open: sign * i.open,
          base_open: sign * i.baseOpen,
        }
      }),
      { transaction: tx, updateOnDuplicate: ['open', 'base_open'] } as object,
    )
  }
  for (let at = 0; at < closed.length; at += CHUNK) {
    await database.query('DELETE FROM open_item WHERE item_id IN (:ids)', {
      replacements: { ids: closed.slice(at, at + CHUNK) },
      transaction: tx,
    })
  }
  const totals = new Map<
    string,
    {
      customer_id: number
      currency: string
      debit: number
      credit: number
      base_debit: number
      base_credit: number
    }
  >()
  for (const item of items) {
    const was = before.get(item.id)!
    const key = `${item.customerId} ${item.currency}`
    const total = totals.get(key) ?? {
      customer_id: item.customerId,
      currency: item.currency,
      debit: 0,
      credit: 0,
      base_debit: 0,
      base_credit: 0,
    }
    total[item.side] += item.open - was.open
    total[`base_${item.side}`] += item.baseOpen - was.baseOpen
    totals.set(key, total)
  }
  const rows = [...totals.values()].sort(
    (a, b) => a.customer_id - b.customer_id || (a.currency < b.currency ? -1 : 1),
  )
  await upsert(
    database,
    tx,
    'account_total',
    ['customer_id', 'currency'],
    ['debit', 'credit', 'base_debit', 'base_credit'],
    rows.map(r => [r.customer_id, r.currency, r.debit, r.credit, r.base_debit, r.base_credit]),
  )
}

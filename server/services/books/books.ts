import { z } from 'zod'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import type { IsoDate } from '../../../core/calendar'
import type { books, Entry, TieOut } from '../../../contract/books'
import { int } from '../../db/connection'
import type { Values } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { movesAsOfSql, type Past } from '../../ledger/asOf'
import { cut, decodeCursor, like } from '../common/paging'

/** The control accounts of the customers' ledger: receivables, and advances as a liability. */
const CONTROL = `(SELECT number FROM ledger_account WHERE purpose IN ('receivables', 'advances'))`

const receivablesRow = z.object({
  number: cell.text,
  name: cell.text,
  purpose: cell.text,
  balance: cell.sum,
})

interface ControlAccount {
  account: string
  name: string
  balance: number
}

/** The control accounts by the name of the first, with what they hold on a day, as it is known now. */
async function receivables(database: Handle, asOf: IsoDate): Promise<ControlAccount> {
  const rows = await database.rows(
    receivablesRow,
    `
    SELECT a.number, a.name, a.purpose, (SELECT SUM(d.base_amount) FROM account_day d
      WHERE d.account = a.number AND d.date <= :asOf) AS balance FROM ledger_account a
      WHERE a.purpose IN ('receivables', 'advances')`,
    { asOf },
  )
  const main = rows.find(r => r.purpose === 'receivables')!
  const advances = rows.find(r => r.purpose === 'advances')
  return {
    account: main.number,
    balance: rows.reduce((sum, r) => sum + int(r.balance ?? 0), 0),
    name:
      advances && int(advances.balance) !== 0
        ? `${main.name} and ${advances.number} ${advances.name}`
        : main.name,
  }
}

const controlAccountRow = z.object({
  balance: cell.sum,
})

/** The control account of the receivables and its balance as of a date, in base currency. */
export async function controlAccount(database: Handle, { asOf, known }: Past): Promise<ControlAccount> {
  const now = await receivables(database, asOf)
  if (known === null) return now
  const [row] = await database.rows(
    controlAccountRow,
    `SELECT SUM(l.base_amount) AS balance FROM journal_line l JOIN entry e ON e.id = l.entry_id
      WHERE l.account IN ${CONTROL} AND e.date <= :asOf AND e.id <= :known`,
    { asOf, known },
  )
  return { ...now, balance: int(row!.balance) }
}

const ledgerBalanceRow = z.object({
  balance: cell.sum,
})

/** All open items as of a date, in base currency. */
export async function ledgerBalance(database: Handle, past: Past): Promise<number> {
  const [row] = await database.rows(
    ledgerBalanceRow,
    `SELECT SUM(base_open) AS balance FROM ${movesAsOfSql(past)} s`,
    {
      ...past,
    },
  )
  return int(row!.balance)
}

const tieOutRow = z.object({
  currency: cell.text,
  amount: cell.sum,
  base: cell.sum,
})

export async function readTieOut(database: Handle, q: { asOf?: string }): Promise<TieOut> {
  const settings = await readSettings(database)
  const asOf = q.asOf ?? settings.today
  const { account, name } = await receivables(database, asOf)
  const [control, ledger] = await Promise.all([
    database.rows(
      tieOutRow,
      `SELECT currency, SUM(amount) AS amount, SUM(base_amount) AS base FROM account_day
        WHERE account IN ${CONTROL} AND date <= :asOf GROUP BY currency`,
      { asOf },
    ),
    database.rows(
      tieOutRow,
      `SELECT currency, SUM(open) AS amount, SUM(base_open) AS base
        FROM ${movesAsOfSql({ asOf, today: settings.today, known: null })} s GROUP BY currency`,
      { asOf },
    ),
  ])
  const currencies = [...new Set([...control, ...ledger].map(r => r.currency))].sort()
  const rows = currencies.map(currency => {
    const c = control.find(r => r.currency === currency)
    const l = ledger.find(r => r.currency === currency)
    return {
      currency,
      ledger: int(l?.amount),
      control: int(c?.amount),
      ledgerBase: int(l?.base),
      controlBase: int(c?.base),
    }
  })
  const sum = (pick: (r: (typeof rows)[number]) => number) => rows.reduce((a, r) => a + pick(r), 0)
  return {
    account,
    name,
    base: settings.base,
    rows,
    ledgerBase: sum(r => r.ledgerBase),
    controlBase: sum(r => r.controlBase),
    ties: rows.every(r => r.ledger === r.control && r.ledgerBase === r.controlBase),
  }
}

const trialBalanceRow = z.object({
  number: cell.text,
  name: cell.text,
  type: cell.text,
  balance: cell.sum,
})

export async function readTrialBalance(database: Handle, q: { asOf?: string }) {
  const settings = await readSettings(database)
  const asOf = q.asOf ?? settings.today
  const rows = await database.rows(
    trialBalanceRow,
    `
    SELECT a.number, a.name, a.type, COALESCE(SUM(d.base_amount), 0) AS balance
    FROM ledger_account a LEFT JOIN account_day d ON d.account = a.number AND d.date <= :asOf
      GROUP BY a.number, a.name, a.type ORDER BY a.number`,
    { asOf },
  )
  const items = rows.map(({ balance, ...r }) => ({
    ...r,
    debit: Math.max(0, int(balance)),
    credit: Math.max(0, -int(balance)),
  }))
  return {
    asOf,
    base: settings.base,
    items,
    totals: {
      debit: items.reduce((a, r) => a + r.debit, 0),
      credit: items.reduce((a, r) => a + r.credit, 0),
    },
  }
}

type EntriesRequest = z.infer<NonNullable<(typeof books.entries)['query']>>

const entriesTotalRow = z.object({
  entries: cell.sum,
  debit: cell.sum,
  credit: cell.sum,
})

const entriesRow = z.object({
  id: cell.whole,
  number: cell.whole,
  date: cell.day,
  kind: cell.text,
  text: cell.text,
  by: cell.text,
  at: cell.instant,
})

const readEntriesRow = z.object({
  account: cell.text,
  accountName: cell.text,
  customer: cell.text.nullable(),
  item: cell.text.nullable(),
  currency: cell.text,
  amount: cell.whole,
  baseAmount: cell.whole,
  entryId: cell.whole,
})

export async function readEntries(database: Handle, q: EntriesRequest) {
  const settings = await readSettings(database)
  const where = ['1 = 1']
  const values: Values = {}
  const on = (sql: string, name: string, value: unknown) => {
    where.push(sql)
    values[name] = value
  }
  if (q.from) on('e.date >= :from', 'from', q.from)
  if (q.to) on('e.date <= :to', 'to', q.to)
  if (q.kind) on('e.kind = :kind', 'kind', q.kind)
  if (q.number) on('e.number = :number', 'number', q.number)
  if (q.account)
    on('e.id IN (SELECT entry_id FROM journal_line WHERE account = :account)', 'account', q.account)
  if (q.customer)
    on(
      `e.id IN (SELECT l.entry_id FROM journal_line l JOIN customer c ON c.id = l.customer_id
        WHERE c.number = :customer)`,
      'customer',
      q.customer,
    )
  if (q.search)
    on(
      `(e.text LIKE :search OR e.id IN (SELECT l.entry_id FROM journal_line l JOIN item i ON i.id = l.item_id
    WHERE i.number LIKE :search)
    OR e.id IN (SELECT l.entry_id FROM journal_line l JOIN customer c ON c.id = l.customer_id
      WHERE c.name LIKE :search))`,
      'search',
      like(q.search),
    )
  const matching = where.join(' AND ')
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) [values.lastDate, values.lastId] = cursor
  const [heads, [total]] = await Promise.all([
    database.rows(
      entriesRow,
      `
      SELECT e.id, e.number, e.date, e.kind, e.text, p.name AS \`by\`, e.at FROM entry e
        JOIN person p ON p.id = e.person_id
      WHERE ${matching} ${cursor ? 'AND (e.date < :lastDate OR (e.date = :lastDate AND e.id < :lastId))' : ''}
        ORDER BY e.date DESC, e.id DESC LIMIT ${q.limit + 1}`,
      values,
    ),
    database.rows(
      entriesTotalRow,
      `
      SELECT COUNT(DISTINCT e.id) AS entries, SUM(GREATEST(l.base_amount, 0)) AS debit,
        SUM(LEAST(l.base_amount, 0)) AS credit FROM entry e LEFT JOIN journal_line l ON l.entry_id = e.id
        WHERE ${matching}`,
      values,
    ),
  ])
  const page = cut(heads, q.limit, e => [e.date, e.id])
  const lines = page.items.length
    ? await database.rows(
        readEntriesRow,
        `
      SELECT l.entry_id AS entryId, l.account, a.name AS accountName, c.number AS customer, i.number AS item,
        l.currency, l.amount, l.base_amount AS baseAmount
      FROM journal_line l JOIN ledger_account a ON a.number = l.account LEFT
        JOIN customer c ON c.id = l.customer_id
        LEFT JOIN allocation x ON x.id = l.allocation_id LEFT
        JOIN item i ON i.id = COALESCE(l.item_id, x.debit_item_id)
      WHERE l.entry_id IN (:ids) ORDER BY l.id`,
        { ids: page.items.map(e => e.id) },
      )
    : []
  const byEntry = new Map<number, Entry['lines']>()
  for (const { entryId, ...line } of lines) byEntry.set(entryId, [...(byEntry.get(entryId) ?? []), line])
  return {
    items: page.items.map(({ id, ...e }): Entry => ({ ...e, lines: byEntry.get(id) ?? [] })),
    base: settings.base,
    totals: { entries: int(total!.entries), debit: int(total!.debit), credit: -int(total!.credit) },
    next: page.next,
  }
}

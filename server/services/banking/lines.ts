import { z } from 'zod'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import type { bank, BankLine, BankLineDetail, LineProposal } from '../../../contract/banking/lines'
import type { MatchLine } from '../../../core/banking/matching'
import type { LineDetails } from '../../../formats/statements'
import { int } from '../../db/connection'
import type { Values } from '../../db/handle'
import { readSettings, type Settings } from '../../db/settings'
import { cut, decodeCursor, like } from '../common/paging'
import { notFound } from '../common/problems'
import { proposeFor } from './proposing'

/** A line with what more the bank tells of it. */
export interface LineRow extends MatchLine {
  id: number
  bankAccountId: number
  accountName: string
  account: string
  statement: string
  bankReference: string
  state: 'open' | 'settled'
  version: number
  proposals: string | null
  confidence: string
  tie: number
  asks: number
  held: string
  details: LineDetails | null
}
const LINE = `l.id, l.bank_account_id AS bankAccountId, b.name AS accountName, b.account,
  s.number AS statement, l.booking_date AS bookingDate, l.value_date AS valueDate, l.currency, l.amount, l.name,
  l.iban, l.text, l.reference, l.end_to_end_id AS endToEndId, l.bank_reference AS bankReference, l.code,
  l.return_reason AS returnReason, l.details, l.state, l.version, l.proposals, l.confidence, l.tie, l.asks, l.held`
const JOINS = `JOIN bank_account b ON b.id = l.bank_account_id
    JOIN bank_statement s ON s.id = l.statement_id`
export const FROM = `FROM bank_line l ${JOINS}`

/** A line as it is kept: what more the bank tells is JSON beside it. */
type KeptLine = Omit<LineRow, 'details' | 'ultimate' | 'remittance'> & { details: string | null }

function withDetails(row: KeptLine): LineRow {
  const details = row.details === null ? null : (JSON.parse(row.details) as LineDetails)
  return { ...row, details, ultimate: details?.ultimate ?? '', remittance: details?.remittance ?? [] }
}

export async function loadLines(database: Handle, where: string, values: Values): Promise<LineRow[]> {
  const rows = await database.rows(lineRow, `SELECT ${LINE} ${FROM} WHERE ${where}`, values)
  return rows.map(withDetails)
}

export async function lineById(database: Handle, id: number): Promise<LineRow> {
  const [row] = await loadLines(database, 'l.id = :id', { id })
  if (!row) throw notFound(`bank line ${id}`)
  return row
}

type MatchTold = NonNullable<BankLine['match']>

const matchesOfRow = z.object({
  id: cell.whole,
  lineId: cell.whole,
  kind: cell.text,
  told: cell.text,
  automatic: cell.whole,
  by: cell.text,
  at: cell.text,
  entry: cell.whole,
})

const matchesOfBankMatchTargetRow = z.object({
  matchId: cell.whole,
  id: cell.whole,
  number: cell.text,
  customerNumber: cell.text,
  customerName: cell.text,
})

async function matchesOf(database: Handle, ids: readonly number[]): Promise<Map<number, MatchTold>> {
  if (!ids.length) return new Map()
  const rows = await database.rows(
    matchesOfRow,
    `
    SELECT m.id, m.line_id AS lineId, m.kind, m.told, m.automatic, p.name AS \`by\`, m.at, e.number AS entry
      FROM bank_match m JOIN person p ON p.id = m.person_id JOIN entry e ON e.id = m.entry_id
      WHERE m.line_id IN (:ids) AND m.undone_entry_id IS NULL`,
    { ids },
  )
  const receipts = rows.length
    ? await database.rows(
        matchesOfBankMatchTargetRow,
        `
    SELECT t.match_id AS matchId, i.id, i.number, c.number AS customerNumber, c.name AS customerName
      FROM bank_match_target t LEFT JOIN receipt_means m ON t.kind = 'means' AND m.id = t.ref_id
      JOIN item i ON i.id = IF(t.kind = 'means', m.item_id, t.ref_id) JOIN customer c ON c.id = i.customer_id
      WHERE t.kind IN ('receipt', 'means') AND t.match_id IN (:ids)`,
        { ids: rows.map(r => r.id) },
      )
    : []
  return new Map(
    rows.map(({ id, lineId, automatic, ...r }) => [
      lineId,
      {
        ...r,
        automatic: Boolean(automatic),
        receipts: receipts
          .filter(x => x.matchId === id)
          .map(x => ({
            id: x.id,
            number: x.number,
            customer: { number: x.customerNumber, name: x.customerName },
          })),
      },
    ]),
  )
}

export function shownLine(row: LineRow, settings: Settings, match: MatchTold | undefined): BankLine {
  const {
    bankAccountId,
    accountName,
    account: _,
    proposals,
    tie,
    asks,
    confidence,
    remittance: _told,
    ...r
  } = row
  const list = proposals ? (JSON.parse(proposals) as LineProposal[]) : []
  const sure = Number(confidence)
  return {
    ...r,
    bankAccount: { id: bankAccountId, name: accountName },
    confidence: sure,
    tie: Boolean(tie),
    asks: Boolean(asks),
    clear: row.state === 'open' && !tie && !asks && sure >= settings.matching.threshold && !row.held,
    proposal: row.state === 'open' ? (list[0] ?? null) : null,
    alternatives: row.state === 'open' ? list.slice(1) : [],
    match: match ?? null,
  }
}

const linesRow = z.object({
  currency: cell.text,
  moneyIn: cell.sum,
  moneyOut: cell.sum,
  count: cell.sum,
})

const lineRow: z.ZodType<KeptLine> = z.object({
  details: cell.text.nullable(),
  id: cell.whole,
  bankAccountId: cell.whole,
  accountName: cell.text,
  account: cell.text,
  statement: cell.text,
  bankReference: cell.text,
  state: z.enum(['settled', 'open']),
  version: cell.whole,
  proposals: cell.text.nullable(),
  confidence: cell.text,
  tie: cell.flag,
  asks: cell.flag,
  held: cell.text,
  amount: cell.whole,
  currency: cell.text,
  bookingDate: cell.day,
  valueDate: cell.day,
  name: cell.text,
  iban: cell.text,
  text: cell.text,
  reference: cell.text,
  endToEndId: cell.text,
  code: cell.text,
  returnReason: cell.text,
})

/** Where a line is searched for a word. */
const SEARCHED = ['name', 'text', 'iban', 'reference', 'bank_reference']

export async function listLines(database: Handle, q: z.output<NonNullable<(typeof bank.lines)['query']>>) {
  const settings = await readSettings(database)
  const values: Values = { threshold: settings.matching.threshold }
  const where = ['1 = 1']
  if (q.state !== 'all')
    where.push(q.state === 'settled' || q.state === 'automatic' ? `l.state = 'settled'` : `l.state = 'open'`)
  if (q.state === 'clear')
    where.push(`l.tie = 0 AND l.asks = 0 AND l.held = '' AND l.confidence >= :threshold`)
  if (q.state === 'unclear')
    where.push(`(l.tie = 1 OR l.asks = 1 OR l.held <> '' OR l.confidence < :threshold)`)
  if (q.state === 'automatic')
    where.push(
      `EXISTS (SELECT 1 FROM bank_match m WHERE m.line_id = l.id AND m.automatic = 1
        AND m.undone_entry_id IS NULL)`,
    )
  if (q.account) {
    where.push('l.bank_account_id = :account')
    values.account = q.account
  }
  if (q.search) {
    const digits = q.search.replace(/[ ,.]/g, '')
    where.push(
      `(${SEARCHED.map(column => `l.${column} LIKE :search`).join(' OR ')}
        ${/^\d+$/.test(digits) ? 'OR ABS(l.amount) IN (:digits, :major)' : ''})`,
    )
    Object.assign(values, { search: like(q.search), digits, major: `${digits}00` })
  }
  const matching = where.join(' AND ')
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) [values.lastDate, values.lastId] = cursor
  // Work is done oldest first; what is done is looked at newest first.
  const done = q.state === 'settled' || q.state === 'automatic' || q.state === 'all'
  const past = done ? '<' : '>'
  // Sums of most lines are read from the index alone; the optimizer would look up each line.
  const byIndex = (q.state === 'settled' || q.state === 'all') && !q.search ? 'FORCE INDEX (totals)' : ''
  const order = done ? 'l.booking_date DESC, l.id DESC' : 'l.booking_date, l.id'
  const after = cursor
    ? `AND (l.booking_date ${past} :lastDate OR (l.booking_date = :lastDate AND l.id ${past} :lastId))`
    : ''
  const counted = q.counted ?? true
  const [rows, totals] = await Promise.all([
    // The page is chosen first, from the lines alone: joined before, all lines would be joined and sorted.
    database.rows(
      lineRow,
      `SELECT ${LINE} FROM (SELECT l.id FROM bank_line l WHERE ${matching} ${after}
        ORDER BY ${order} LIMIT ${q.limit + 1}) page JOIN bank_line l ON l.id = page.id ${JOINS}
        ORDER BY ${order}`,
      values,
    ),
    counted
      ? database.rows(
          linesRow,
          `SELECT l.currency, SUM(GREATEST(l.amount, 0)) AS moneyIn, SUM(LEAST(l.amount, 0)) AS moneyOut,
        COUNT(*) AS count FROM bank_line l ${byIndex} WHERE ${matching} GROUP BY l.currency ORDER BY
        l.currency`,
          values,
        )
      : Promise.resolve([]),
  ])
  const page = cut(rows, q.limit, r => [r.bookingDate, r.id])
  const matches = await matchesOf(
    database,
    page.items.map(r => r.id),
  )
  return {
    items: page.items.map(r => shownLine(withDetails(r), settings, matches.get(r.id))),
    next: page.next,
    count: counted ? totals.reduce((a, t) => a + int(t.count), 0) : null,
    totals: totals.map(t => ({
      currency: t.currency,
      moneyIn: int(t.moneyIn),
      moneyOut: int(t.moneyOut),
      count: int(t.count),
    })),
  }
}

const readLineRow = z.object({
  told: cell.text,
  by: cell.text,
  at: cell.text,
  entry: cell.whole,
  undoneBy: cell.text.nullable(),
  undoneAt: cell.text.nullable(),
  undoneReason: cell.text,
  undoneEntry: cell.whole.nullable(),
})

/** One line; while it is open its proposals are made afresh. `customer`: what it would be for this one. */
export async function readLine(database: Handle, id: number, customer?: string): Promise<BankLineDetail> {
  const settings = await readSettings(database)
  let row = await lineById(database, id)
  if (row.state === 'open') {
    const [proposed] = await proposeFor(database, settings, [row], customer)
    row = {
      ...row,
      proposals: JSON.stringify(proposed!.proposals),
      confidence: String(proposed!.confidence),
      tie: proposed!.tie ? 1 : 0,
      asks: proposed!.asks ? 1 : 0,
    }
  }
  const matches = await matchesOf(database, [id])
  const history = await database.rows(
    readLineRow,
    `
    SELECT m.told, p.name AS \`by\`, m.at, e.number AS entry, u.name AS undoneBy, m.undone_at AS undoneAt,
      m.undone_reason AS undoneReason, x.number AS undoneEntry
    FROM bank_match m JOIN person p ON p.id = m.person_id JOIN entry e ON e.id = m.entry_id LEFT
      JOIN person u ON u.id = m.undone_by LEFT JOIN entry x ON x.id = m.undone_entry_id WHERE m.line_id = :id
      ORDER BY m.id`,
    { id },
  )
  return {
    ...shownLine(row, settings, matches.get(id)),
    history: history.map(({ undoneBy, undoneAt, undoneReason, undoneEntry, ...h }) => ({
      ...h,
      undone:
        undoneEntry === null
          ? null
          : { by: undoneBy!, at: undoneAt!, reason: undoneReason, entry: undoneEntry },
    })),
  }
}

import { z } from 'zod'
import { addMonths, isIsoDate, type IsoDate } from '../../../core/calendar'
import { ITEM_KINDS } from '../../../core/ledger'
import type { SentLetter } from '../../../contract/letters'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings, type Settings } from '../../db/settings'
import { openAsOfSql } from '../../ledger/asOf'
import { sheetPdf, type LetterSheet } from '../../letters/sheet'
import { findCustomer } from '../accounts/customers'
import { notFound, ProblemError } from '../common/problems'
import type { Progress } from '../documents/imports'
import type { Actor, Scope } from '../people/scope'
import { addressee, addressees, sendLetter, type Addressee } from './send'
import {
  copySheet,
  statementSheet,
  type StatementAsk,
  type StatementForm,
  type StatementItem,
} from './sheets'

export interface StatementRequest {
  form: StatementForm
  asOf?: IsoDate
  from?: IsoDate
}

/** What was asked for, with the days that were left out. Refused when they make no sense. */
export function statementAsk({ form, asOf, from }: StatementRequest, today: IsoDate): StatementAsk {
  const until = asOf ?? today
  const since = from ?? addMonths(until, -1)
  if (until > today)
    throw new ProblemError(422, 'Not yet', `a statement tells what was: ${today} or earlier`, [
      { path: 'asOf', message: 'after today', satisfy: `${today} or earlier` },
    ])
  if (form === 'balance-forward' && since >= until)
    throw new ProblemError(422, 'No time', 'it begins on the day it ends, or later', [
      { path: 'from', message: 'not before the last day', satisfy: `a day before ${until}` },
    ])
  return { form, asOf: until, from: since }
}

const itemRow = z.object({
  customerId: cell.whole,
  number: cell.text,
  part: cell.whole,
  kind: z.enum(ITEM_KINDS),
  currency: cell.text,
  date: cell.day,
  due: cell.day,
  amount: cell.whole,
  open: cell.sum,
})

/** What statements of some customers tell: what is open, or all that moved. */
async function itemsOf(
  db: Handle,
  settings: Settings,
  ids: readonly number[],
  { form, asOf }: StatementAsk,
): Promise<Map<number, StatementItem[]>> {
  const open = openAsOfSql({ asOf, today: settings.today, known: null })
  const sql =
    form === 'open-item'
      ? `SELECT i.customer_id AS customerId, i.number, i.part, i.kind, i.currency, i.document_date AS date,
          i.due_date AS due, IF(i.side = 'debit', 1, -1) * i.amount AS amount, s.open
          FROM ${open} s JOIN item i ON i.id = s.item_id WHERE s.customer_id IN (:ids) AND s.open <> 0
          ORDER BY i.customer_id, i.due_date, i.id`
      : `SELECT i.customer_id AS customerId, i.number, i.part, i.kind, i.currency, i.posting_date AS date,
          i.due_date AS due, IF(i.side = 'debit', 1, -1) * i.amount AS amount, COALESCE(s.open, 0) AS open
          FROM item i LEFT JOIN ${open} s ON s.item_id = i.id WHERE i.customer_id IN (:ids)
          AND i.posting_date <= :asOf ORDER BY i.customer_id, i.posting_date, i.id`
  const rows = await db.rows(itemRow, sql, { ids, asOf, today: settings.today })
  const byCustomer = new Map<number, StatementItem[]>()
  for (const { customerId, part, ...row } of rows) {
    const number = part > 1 ? `${row.number} (${part})` : row.number
    const list = byCustomer.get(customerId) ?? []
    byCustomer.set(customerId, list)
    list.push({ ...row, number, open: int(row.open) })
  }
  return byCustomer
}

async function statementOf(
  database: Handle,
  number: string,
  request: StatementRequest,
  scope: Scope,
): Promise<{ to: Addressee; sheet: LetterSheet; ask: StatementAsk }> {
  const settings = await readSettings(database)
  const ask = statementAsk(request, settings.today)
  const to = await addressee(database, (await findCustomer(database, number, scope)).id)
  const items = await itemsOf(database, settings, [to.id], ask)
  return { to, ask, sheet: statementSheet(settings, to, items.get(to.id) ?? [], ask) }
}

export async function statementPdf(
  database: Handle,
  number: string,
  request: StatementRequest,
  scope: Scope,
): Promise<Buffer> {
  return sheetPdf([(await statementOf(database, number, request, scope)).sheet])
}

/** Sends a statement of account now. */
export async function sendStatement(
  database: Handle,
  actor: Actor,
  number: string,
  request: StatementRequest,
  scope: Scope,
): Promise<SentLetter> {
  const { to, sheet, ask } = await statementOf(database, number, request, scope)
  return database.transaction(async tx => {
    const letter = { kind: 'statement' as const, sheet, asOf: ask.asOf, jobId: null }
    return (await sendLetter(tx, actor, { ...to, email: to.statementEmail }, letter))!
  })
}

const copyOfRow = z.object({
  number: cell.text,
  kind: z.enum(ITEM_KINDS),
  currency: cell.text,
  date: cell.day,
  due: cell.day,
  amount: cell.whole,
  open: cell.whole,
  customerId: cell.whole,
  tax: cell.whole,
  order: cell.text,
  text: cell.text,
  d1: cell.text.nullable(),
  a1: cell.whole.nullable(),
  d2: cell.text.nullable(),
  a2: cell.whole.nullable(),
})

async function copyOf(database: Handle, itemId: number, scope: Scope) {
  const settings = await readSettings(database)
  const [row] = await database.rows(
    copyOfRow,
    `SELECT i.customer_id AS customerId, i.number, i.kind, i.currency, i.document_date AS date, i.due_date AS due,
      IF(i.side = 'debit', 1, -1) * i.amount AS amount, COALESCE(o.open, 0) AS open, i.tax, i.order_ref AS \`order\`, i.text,
      i.discount_date AS d1, i.discount_amount AS a1, i.discount2_date AS d2, i.discount2_amount AS a2
      FROM item i JOIN customer c ON c.id = i.customer_id LEFT JOIN open_item o ON o.item_id = i.id
      WHERE i.id = :itemId AND i.register IN ('document', 'fee', 'charge')
      ${scope.salesId ? 'AND c.sales_id = :salesId' : ''}`,
    { itemId, salesId: scope.salesId ?? 0 },
  )
  if (!row) throw notFound(`document ${itemId}`, 'choose an invoice, a credit note or a fee')
  const { customerId, d1, a1, d2, a2, ...item } = row
  const discounts = [
    [d1, a1],
    [d2, a2],
  ].flatMap(([date, amount]) => (date && amount ? [{ date: String(date), amount: Number(amount) }] : []))
  const to = await addressee(database, customerId)
  const sheet = copySheet(settings, to, {
    ...item,
    open: int(item.open),
    discounts: discounts.filter(d => isIsoDate(d.date)),
  })
  return { to, sheet, asOf: settings.today }
}

export const copyPdf = async (database: Handle, itemId: number, scope: Scope): Promise<Buffer> =>
  sheetPdf([(await copyOf(database, itemId, scope)).sheet])

/** Sends a copy of a document now. */
export async function sendCopy(
  database: Handle,
  actor: Actor,
  itemId: number,
  scope: Scope,
): Promise<SentLetter> {
  const { to, sheet, asOf } = await copyOf(database, itemId, scope)
  return database.transaction(
    async tx => (await sendLetter(tx, actor, to, { kind: 'copy', sheet, asOf, jobId: null }))!,
  )
}

/** What a run of statements was asked for. */
export interface StatementRun extends StatementRequest {
  cycle: string
  class?: string
}

/** Queues a run, refused at once when its days make no sense. */
export async function queueRun(
  database: Handle,
  actor: Actor,
  run: StatementRun,
  queue: (
    database: Handle,
    personId: number,
    kind: 'statements',
    options: object,
    upload: Buffer,
  ) => Promise<number>,
): Promise<{ job: number }> {
  const { today } = await readSettings(database)
  // The days are settled now: a run that goes on tomorrow tells the rest of the same day.
  const { asOf, from } = statementAsk(run, today)
  const settled = { ...run, asOf, from }
  return { job: await queue(database, actor.id, 'statements', settled, Buffer.alloc(0)) }
}

/** So many customers are written to in one transaction: what was sent stays when the run is cut short. */
const CHUNK = 100

/**
 * Statements for many: each letter is kept and put on its way in chunks. Begun again after a crash the run
 * goes on where it was, and nobody gets a letter twice.
 */
export async function runStatements(
  database: Handle,
  actor: Actor,
  run: StatementRun,
  jobId: number,
  progress: Progress,
): Promise<{ letters: number; left: number }> {
  const settings = await readSettings(database)
  const ask = statementAsk(run, settings.today)
  const all = (
    await addressees(
      database,
      `c.merged_into IS NULL AND c.closed_on IS NULL ${run.class ? 'AND c.class = :class' : ''}`,
      { class: run.class ?? '' },
    )
  ).filter(a => run.cycle === 'all' || (a.statementCycle || 'none') === run.cycle)
  let letters = 0
  let left = 0
  for (let at = 0; at < all.length; at += CHUNK) {
    await progress('sending', at, all.length)
    const some = all.slice(at, at + CHUNK)
    const items = await itemsOf(
      database,
      settings,
      some.map(a => a.id),
      ask,
    )
    await database.transaction(async tx => {
      for (const to of some) {
        const own = items.get(to.id) ?? []
        if (!own.some(i => i.open !== 0 || (ask.form === 'balance-forward' && i.date > ask.from))) {
          left++
          continue
        }
        const sheet = statementSheet(settings, to, own, ask)
        const letter = { kind: 'statement' as const, sheet, asOf: ask.asOf, jobId }
        await sendLetter(tx, actor, { ...to, email: to.statementEmail }, letter)
        letters++
      }
    })
  }
  return { letters, left }
}

const listRunsRow = z.object({
  job: cell.whole,
  state: cell.text,
  at: cell.text,
  by: cell.text,
  letters: cell.sum,
  sent: cell.sum,
  waiting: cell.sum,
  failed: cell.sum,
  print: cell.sum,
})

/** Runs of statements, the newest first, with what became of their letters. */
export async function listRuns(database: Handle) {
  const rows = await database.rows(
    listRunsRow,
    `SELECT j.id AS job, j.state, j.at, p.name AS \`by\`, COUNT(o.id) AS letters, SUM(o.state = 'sent') AS sent,
      SUM(o.state IN ('queued', 'waiting')) AS waiting, SUM(o.state = 'failed') AS failed,
      SUM(o.state = 'print') AS print FROM job j JOIN person p ON p.id = j.person_id
      LEFT JOIN sent_letter l ON l.job_id = j.id LEFT JOIN outbox o ON o.letter_id = l.id
      WHERE j.kind = 'statements' GROUP BY j.id ORDER BY j.id DESC LIMIT 50`,
  )
  return {
    items: rows.map(({ job, state, at, by, ...counts }) => ({
      job,
      state,
      at,
      by,
      letters: int(counts.letters),
      sent: int(counts.sent),
      waiting: int(counts.waiting),
      failed: int(counts.failed),
      print: int(counts.print),
    })),
  }
}

const printFileRow = z.object({
  letter: cell.text,
})

/** The letters of a run that go by post, in one file. */
export async function printFile(database: Handle, jobId: number): Promise<Buffer> {
  const rows = await database.rows(
    printFileRow,
    `SELECT l.letter FROM sent_letter l JOIN outbox o ON o.letter_id = l.id WHERE l.job_id = :jobId
      AND o.state = 'print' ORDER BY l.id`,
    { jobId },
  )
  if (!rows.length)
    throw new ProblemError(
      404,
      'Nothing to print',
      'no letter of this run goes by post, or there is no such run',
    )
  return sheetPdf(rows.map(r => JSON.parse(r.letter) as LetterSheet))
}

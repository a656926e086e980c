import { Op } from '../../db/where'
import { z } from 'zod'
import { createHash } from 'node:crypto'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import type { StatementResult } from '../../../contract/banking/lines'
import type { ColumnMap, StatementLine } from '../../../formats/statements'
import { readSettings } from '../../db/settings'
import { parseFile } from '../../parse'
import { cut, decodeCursor } from '../common/paging'
import { ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'
import { loadLines } from './lines'
import { proposeFor } from './proposing'
import { applyClear } from './clear'
import { isEarly, tellable, toldBefore } from './early'
import { openWithFirst } from './opening'
import { keepProposals } from './proposals'

export type Progress = (step: string, done: number, total: number) => Promise<void>
/** `propose`: false leaves the lines without a proposal, for somebody who knows what they are. */
export interface TakeOptions {
  name?: string
  account?: number
  dryRun?: boolean
  propose?: boolean
}

/**
 * Takes a bank's file in. A file, or a line of an overlapping file, that was there before changes nothing.
 * The whole file is taken or nothing of it; then lines are matched, and the clear ones applied when Setup
 * says so.
 */
export async function takeStatement(
  database: Handle,
  actor: Actor,
  bytes: Uint8Array,
  options: TakeOptions,
  progress: Progress = async () => {},
): Promise<StatementResult> {
  const settings = await readSettings(database)
  const accounts = await database.find(
    'bank_account',
    { active: 1 },
    { columns: { id: 'id', name: 'name', iban: 'iban', currency: 'currency', csvMap: 'csv_map' } },
  )
  const named = options.account === undefined ? undefined : accounts.find(a => a.id === options.account)
  if (options.account !== undefined && !named)
    throw new ProblemError(422, 'No such account', `there is no bank account ${options.account}`, [
      { path: 'account', message: 'no such account' },
    ])
  await progress('Reading', 0, 1)
  const csv = named && {
    map: named.csvMap ? (JSON.parse(named.csvMap) as ColumnMap) : null,
    currency: named.currency,
    account: named.iban,
  }
  const statements = await parseFile('statement', bytes, { csv }, 'Not taken in')
  const found = statements.map(s => {
    const account =
      named ??
      accounts.find(a => same(a.iban, s.account) && a.currency === s.currency) ??
      accounts.find(a => same(a.iban, s.account))
    if (!account)
      throw new ProblemError(
        422,
        'Whose account?',
        `the statement is of account ${s.account || 'without a number'} in ${s.currency}, which is ` +
          'none of ours',
        [{ path: 'account', message: s.account, satisfy: 'add this bank account under Setup' }],
      )
    if (account.currency !== s.currency)
      throw new ProblemError(
        422,
        'Wrong currency',
        `the statement is in ${s.currency}, ${account.name} is kept in ${account.currency}`,
        [{ path: 'currency', message: s.currency, satisfy: `choose a statement in ${account.currency}` }],
      )
    if (named && s.account && !same(named.iban, s.account))
      throw new ProblemError(
        422,
        'Another account',
        `the statement is of ${s.account}, ${named.name} is ${named.iban}`,
        [{ path: 'account', message: s.account }],
      )
    const late = s.lines.find(l => l.bookingDate > settings.today)
    if (late)
      throw new ProblemError(
        422,
        'In the future',
        `a line is booked on ${late.bookingDate}, after today, ${settings.today}`,
        [{ path: 'bookingDate', message: late.bookingDate, satisfy: 'take it in on that day' }],
      )
    return { statement: s, account }
  })
  const result: StatementResult = {
    statements: [],
    fresh: 0,
    known: 0,
    applied: 0,
    left: 0,
    warnings: [],
  }
  const hash = createHash('sha256').update(bytes).digest('hex')
  await progress('Comparing', 0, 1)
  const freshIds = await database.transaction(async tx => {
    const ids: number[] = []
    for (const { statement: s, account } of found) {
      await tx.find('bank_account', { id: account.id }, { columns: ['id'], lock: true })
      const { lines, waiting } = tellable(s)
      const prints = occurrencesOf(lines)
      const announced = await toldBefore(tx, account.id, s, lines)
      const known = new Set<string>()
      for (let at = 0; at < prints.length; at += 2000) {
        const rows = await tx.find(
          'bank_line',
          { bank_account_id: account.id, fingerprint: prints.slice(at, at + 2000).map(p => p.print) },
          { columns: ['fingerprint', 'occurrence'] },
        )
        for (const r of rows) known.add(`${r.fingerprint} ${r.occurrence}`)
      }
      const fresh = lines
        .map((line, i) => ({ line, ...prints[i]! }))
        .filter(l => !known.has(`${l.print} ${l.occurrence}`))
        .filter(l => !l.line.entryReference || !announced.references.has(l.line.entryReference))
      if (waiting)
        result.warnings.push(
          `${account.name}: ${waiting} of the entries have no reference of the bank, so they cannot be told ` +
            'from those of the statement to come; they wait for it',
        )
      result.statements.push({
        account: account.name,
        number: s.id,
        format: s.format,
        from: s.from,
        to: s.to,
        currency: s.currency,
        opening: s.opening,
        closing: s.closing,
        fresh: fresh.length,
        known: lines.length - fresh.length,
      })
      result.fresh += fresh.length
      result.known += lines.length - fresh.length
      const [before] = await tx.find(
        'bank_statement',
        { bank_account_id: account.id, to_date: { [Op.lt]: s.from } },
        {
          columns: { to: 'to_date', closing: 'closing' },
          order: [
            ['to_date', 'DESC'],
            ['id', 'DESC'],
          ],
          limit: 1,
        },
      )
      if (before && before.closing !== null && s.opening !== null && before.closing !== s.opening)
        result.warnings.push(
          `${account.name}: the statement before closed on ${before.to} with another balance than this ` +
            'one opens with; one between them seems missing',
        )
      if (s.opening === null && !isEarly(s))
        result.warnings.push(`${account.name}: the file tells no balances, so nothing says that it is whole`)
      const [again] = await tx.find(
        'bank_statement',
        { bank_account_id: account.id, number: s.id.slice(0, 80), from_date: s.from, to_date: s.to },
        { columns: ['id'] },
      )
      if (options.dryRun || (again && !fresh.length && !announced.confirmed.length)) continue
      const statementId = (
        await tx.insert('bank_statement', [
          {
            bank_account_id: account.id,
            number: s.id.slice(0, 80),
            format: s.format,
            from_date: s.from || settings.today,
            to_date: s.to || settings.today,
            opening: s.opening,
            closing: s.closing,
            file_name: (options.name ?? '').slice(0, 120),
            file_hash: hash,
            fresh: fresh.length,
            known: lines.length - fresh.length,
            person_id: actor.id,
          },
        ])
      )[0]!
      // What was announced now stands on a statement.
      if (announced.confirmed.length)
        await tx.update('bank_line', { statement_id: statementId }, { id: announced.confirmed })
      for (let at = 0; at < fresh.length; at += 1000) {
        await tx.insert(
          'bank_line',
          fresh.slice(at, at + 1000).map(({ line: l, print, occurrence }) => ({
            bank_account_id: account.id,
            statement_id: statementId,
            fingerprint: print,
            occurrence,
            booking_date: l.bookingDate,
            value_date: l.valueDate,
            currency: s.currency,
            amount: l.amount,
            name: l.name.slice(0, 160),
            iban: l.iban.slice(0, 34),
            text: l.text.slice(0, 1000),
            reference: l.reference.slice(0, 60),
            end_to_end_id: l.endToEndId.slice(0, 60),
            bank_reference: l.bankReference.slice(0, 60),
            code: l.code.slice(0, 40),
            return_reason: l.returnReason.slice(0, 8),
            entry_reference: (l.entryReference ?? '').slice(0, 60),
            details: l.details ? JSON.stringify(l.details) : null,
          })),
        )
      }
      ids.push(
        ...(
          await tx.find(
            'bank_line',
            { statement_id: statementId, state: 'open' },
            { columns: ['id'], order: ['id'] },
          )
        ).map(r => r.id),
      )
    }
    return ids
  })
  if (!options.dryRun)
    for (const accountId of new Set(found.filter(f => !isEarly(f.statement)).map(f => f.account.id))) {
      const trouble = await openWithFirst(database, actor, accountId)
      if (trouble) result.warnings.push(trouble)
    }
  if (options.dryRun || options.propose === false) return { ...result, left: freshIds.length }
  // With the new lines those that an attempt before, cut off, left without a look: taking the file again
  // finishes it.
  const rows = await loadLines(
    database,
    `(l.id IN (:ids) OR (l.bank_account_id IN (:accounts) AND l.state = 'open' AND l.proposals IS NULL))
      ORDER BY l.booking_date, l.id`,
    { ids: [0, ...freshIds], accounts: [0, ...new Set(found.map(f => f.account.id))] },
  )
  if (!rows.length) return result
  await progress('Matching', 0, rows.length)
  const proposed = await proposeFor(database, settings, rows, undefined, done =>
    progress('Matching', done, rows.length),
  )
  await keepProposals(database, proposed)
  const clear = proposed
    .filter(p => !p.tie && !p.asks && p.confidence >= settings.matching.threshold)
    .map(p => p.lineId)
  if (settings.matching.automatic && clear.length)
    result.applied = (
      await applyClear(database, actor, clear, true, done => progress('Applying', done, clear.length))
    ).applied
  result.left = rows.length - result.applied
  return result
}

const same = (a: string, b: string) =>
  a.replace(/[\s-]/g, '').toUpperCase() === b.replace(/[\s-]/g, '').toUpperCase()

/**
 * What makes a line the same line: all the bank says of it, and the how-manieth of its like it is in the
 * file.
 */
function occurrencesOf(lines: readonly StatementLine[]): { print: string; occurrence: number }[] {
  const seen = new Map<string, number>()
  return lines.map(l => {
    const print = createHash('sha256')
      .update(
        JSON.stringify([
          l.bookingDate,
          l.valueDate,
          l.amount,
          l.name,
          l.iban.replace(/\s/g, ''),
          l.text,
          l.reference,
          l.endToEndId,
          l.bankReference,
        ]),
      )
      .digest('hex')
    const occurrence = (seen.get(print) ?? 0) + 1
    seen.set(print, occurrence)
    return { print, occurrence }
  })
}

const statementsRow = z.object({
  id: cell.whole,
  account: cell.text,
  number: cell.text,
  format: cell.text,
  from: cell.day,
  to: cell.day,
  currency: cell.text,
  opening: cell.whole.nullable(),
  closing: cell.whole.nullable(),
  fresh: cell.whole,
  known: cell.whole,
  by: cell.text,
  at: cell.instant,
})

export async function listStatements(database: Handle, q: { limit: number; cursor?: string }) {
  const cursor = decodeCursor(q.cursor, 1)
  const rows = await database.rows(
    statementsRow,
    `
    SELECT s.id, b.name AS account, s.number, s.format, s.from_date AS \`from\`, s.to_date AS \`to\`,
      b.currency, s.opening, s.closing, s.fresh, s.known, p.name AS \`by\`, s.at
    FROM bank_statement s JOIN bank_account b ON b.id = s.bank_account_id
      JOIN person p ON p.id = s.person_id ${cursor ? 'WHERE s.id < :last' : ''} ORDER BY s.id DESC
      LIMIT ${q.limit + 1}`,
    { last: cursor?.[0] ?? 0 },
  )
  return cut(rows, q.limit, r => [r.id])
}

/** The columns of a CSV and a first idea of what they hold. */
export const ideaOfMap = (bytes: Uint8Array) => parseFile('columns', bytes, {}, 'Not a table')

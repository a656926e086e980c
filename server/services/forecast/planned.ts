import { z } from 'zod'
import { cell } from '../../db/rows'
import type { Fault } from '../../../contract/common'
import { plannedBody, type PlannedRow } from '../../../contract/forecast'
import { addDays, addMonths, type IsoDate } from '../../../core/calendar'
import { daysOfRule, type PlannedKind, type PlannedRule } from '../../../core/forecast'
import { parseAmount } from '../../../core/money'
import { CsvFault, readCsv } from '../../../formats/csv'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { audit, readSettings } from '../../db/settings'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'

type Body = z.output<typeof plannedBody>

const rowCells = z.object({
  id: cell.whole,
  name: cell.text,
  kind: cell.word<PlannedKind>(),
  currency: cell.text,
  amount: cell.sum,
  from: cell.day,
  until: cell.day.nullable(),
  every: z.enum(['once', 'week', 'month', 'quarter', 'year']),
  by: cell.text,
  intoCurrency: cell.text.nullable(),
  intoAmount: cell.sum,
})
type Row = z.output<typeof rowCells>

const ROWS = `SELECT q.id, q.name, q.kind, q.currency, q.amount, q.from_date AS \`from\`, q.until_date AS until, q.every,
  q.into_currency AS intoCurrency, q.into_amount AS intoAmount, p.name AS \`by\` FROM planned_payment q JOIN person p ON p.id = q.person_id`

/** Rules that stood in the plan at the end of a day. */
export async function plannedRules(
  db: Handle,
  asOf: IsoDate,
): Promise<(PlannedRule & Pick<PlannedRow, 'id' | 'name' | 'into'>)[]> {
  const rows = await db.rows(
    rowCells,
    `${ROWS} WHERE q.on_date <= :asOf AND (q.ended_on IS NULL OR q.ended_on > :asOf) ORDER BY q.id`,
    {
      asOf,
    },
  )
  return rows.map(r => ({ ...ruleOf(r), id: r.id, name: r.name, into: intoOf(r) }))
}

const ruleOf = (r: Row): PlannedRule => ({
  amount: int(r.amount),
  currency: r.currency,
  from: r.from,
  until: r.until,
  every: r.every,
})

const intoOf = ({ intoCurrency, intoAmount }: Row): PlannedRow['into'] =>
  intoCurrency === null ? null : { currency: intoCurrency, amount: int(intoAmount) }

/** What is planned, the next first. */
export async function listPlanned(db: Handle): Promise<PlannedRow[]> {
  const { today } = await readSettings(db)
  const rows = await db.rows(rowCells, `${ROWS} WHERE q.ended_on IS NULL ORDER BY q.id`)
  return rows
    .map(r => ({
      id: r.id,
      name: r.name,
      kind: r.kind,
      ...ruleOf(r),
      by: r.by,
      into: intoOf(r),
      next: daysOfRule(ruleOf(r), addDays(today, -1), addMonths(today, 13))[0] ?? null,
    }))
    .sort((a, b) => (a.next ?? '9').localeCompare(b.next ?? '9') || a.id - b.id)
}

/** A payment in the past is none that is planned; a rule ends after it began. */
function faultsOf(body: Body, today: IsoDate): { path: string; message: string; satisfy: string }[] {
  const faults = []
  if (body.every === 'once' && body.from < today)
    faults.push({ path: 'from', message: `${body.from} is over`, satisfy: `use ${today} or later` })
  if (body.until !== null && body.until < body.from)
    faults.push({ path: 'until', message: 'it ends before it begins', satisfy: `use ${body.from} or later` })
  if (body.kind === 'transfer' && body.into === null)
    faults.push({
      path: 'into',
      message: 'a transfer arrives somewhere',
      satisfy: 'say what arrives, and in which currency',
    })
  if (body.kind !== 'transfer' && body.into !== null)
    faults.push({
      path: 'into',
      message: 'only a transfer arrives at another account of ours',
      satisfy: 'leave it out',
    })
  if (body.into?.currency === body.currency)
    faults.push({
      path: 'into.currency',
      message: 'within one currency a transfer changes nothing here',
      satisfy: `another one than ${body.currency}`,
    })
  if (body.until !== null && body.until < today)
    faults.push({ path: 'until', message: `${body.until} is over`, satisfy: `use ${today} or later` })
  return faults
}

const rowOf = (
  { name, kind, currency, amount, from, until, every, into }: Body,
  actor: Actor,
  today: IsoDate,
) => ({
  ...{ name, kind, currency, amount, every, person_id: actor.id },
  ...{ from_date: from, until_date: until, on_date: today },
  ...{ into_currency: into?.currency ?? null, into_amount: into?.amount ?? null },
})

function refuse(faults: readonly Fault[]): void {
  if (faults[0]) throw new ProblemError(422, 'Not planned', faults[0].message, faults)
}

/** Plans payments: all or none. Throws 422 with what is wrong, line by line. */
export async function planPayments(db: Handle, actor: Actor, bodies: readonly Body[]): Promise<number[]> {
  const { today } = await readSettings(db)
  refuse(
    bodies.flatMap((body, n) =>
      faultsOf(body, today).map(f => ({ ...f, ...(bodies.length > 1 ? { line: n + 2 } : {}) })),
    ),
  )
  return db.transaction(async tx => {
    const ids = await tx.insert(
      'planned_payment',
      bodies.map(b => rowOf(b, actor, today)),
    )
    for (const [n, body] of bodies.entries())
      await audit(tx, actor.id, 'planned payment', String(ids[n]), null, JSON.stringify(body))
    return ids
  })
}

const endStandingRow = rowCells.extend({
  ended: cell.day.nullable(),
})

/** Ends a rule that stands, and answers it. Throws 409 when somebody else was first. */
async function endStanding(tx: Handle, id: number, today: IsoDate): Promise<Row> {
  const [row] = await tx.rows(
    endStandingRow,
    `${ROWS.replace('SELECT', 'SELECT q.ended_on AS ended,')} WHERE q.id = :id FOR UPDATE`,
    { id },
  )
  if (!row) throw notFound(`planned payment ${id}`)
  if (row.ended !== null)
    throw new ProblemError(409, 'Changed meanwhile', `${row.name} was planned anew or taken out: reload`, [
      { path: 'id', message: 'stands no more', satisfy: 'reload the plan' },
    ])
  await tx.update('planned_payment', { ended_on: today }, { id })
  return row
}

/** The rule of before ends today, and the new one stands in its place. Answers the id of the new one. */
export async function changePlanned(
  db: Handle,
  actor: Actor,
  id: number,
  body: Body,
): Promise<{ id: number }> {
  const { today } = await readSettings(db)
  return db.transaction(async tx => {
    const before = await endStanding(tx, id, today)
    // A rule that began long ago keeps its beginning.
    refuse(faultsOf(body, body.from === before.from ? body.from : today))
    const [next] = await tx.insert('planned_payment', [rowOf(body, actor, today)])
    const told = JSON.stringify({ id, ...ruleOf(before), into: intoOf(before) })
    await audit(tx, actor.id, 'planned payment', String(next), told, JSON.stringify(body))
    return { id: next! }
  })
}

/** It is planned no more; forecasts of the past still know it. */
export async function endPlanned(db: Handle, actor: Actor, id: number): Promise<void> {
  const { today } = await readSettings(db)
  await db.transaction(async tx => {
    const before = await endStanding(tx, id, today)
    await audit(tx, actor.id, 'planned payment', String(id), before.name, null)
  })
}

const COLUMNS = ['name', 'kind', 'date', 'amount', 'currency', 'every', 'until'] as const

/**
 * Planned payments from CSV with a header: name and date and amount must be there, kind and every and
 * currency and until may be left out. All of its rows are taken, or none, and every fault is told with
 * its line.
 */
export async function importPlanned(db: Handle, actor: Actor, csv: string): Promise<{ added: number }> {
  const { base } = await readSettings(db)
  const faults: { path: string; message: string; line: number; satisfy: string }[] = []
  let table
  try {
    table = readCsv(csv)
  } catch (error) {
    if (error instanceof CsvFault) throw new ProblemError(422, 'Not readable', error.message)
    throw error
  }
  const missing = ['name', 'date', 'amount'].filter(c => !table.header.includes(c))
  if (missing.length)
    throw new ProblemError(422, 'Columns missing', `there is no column ${missing.join(', ')}`, [
      { path: 'csv', message: `no ${missing.join(', ')}`, satisfy: `use the columns ${COLUMNS.join(', ')}` },
    ])
  const bodies = table.rows.flatMap(({ cells, line }): Body[] => {
    const of = (name: (typeof COLUMNS)[number]): string => (cells[name] ?? '').trim()
    const currency = (of('currency') || base).toUpperCase()
    let amount = 0
    try {
      amount = Math.abs(parseAmount(of('amount'), currency))
    } catch (error) {
      faults.push({ path: 'amount', message: (error as Error).message, line, satisfy: 'such as 1250.00' })
      return []
    }
    const read = plannedBody.safeParse({
      ...{ name: of('name'), kind: of('kind') || 'other', currency, amount },
      ...{ from: of('date'), until: of('until') || null, every: of('every') || 'once' },
    })
    if (read.success) return [read.data]
    for (const issue of read.error.issues)
      faults.push({ path: issue.path.join('.'), message: issue.message, line, satisfy: 'see the columns' })
    return []
  })
  if (faults.length)
    throw new ProblemError(422, 'Not planned', `line ${faults[0]!.line}: ${faults[0]!.message}`, faults)
  if (!bodies.length) throw new ProblemError(422, 'Empty', 'the file holds no payment')
  return { added: (await planPayments(db, actor, bodies)).length }
}

import { z } from 'zod'
import { cell } from '../../db/rows'
import type { Role } from '../../../core/people'
import { SIGN_OFF_KINDS, standsInFor, type Signed } from '../../../core/signOff'
import type { WaitingDetail, WaitingRow } from '../../../contract/signOff'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { wouldDecide, type By, type Change } from '../../ledger/command'
import { askAgain, sign, signerRefusal, turnDown, type Signer } from '../../ledger/waiting'
import { prove } from '../books/proof'
import { commandNamed } from '../commands'
import { notFound, ProblemError } from '../common/problems'
import { findActor } from '../people/people'
import type { Actor } from '../people/scope'

type Decided = 'signed' | 'declined' | 'withdrawn'
const rowCells = z.object({
  id: cell.whole,
  name: cell.text,
  ask: cell.text,
  kind: cell.text,
  state: z.enum(['waiting', 'signed', 'declined', 'returned', 'withdrawn']),
  about: cell.text,
  customerNumber: cell.text.nullable(),
  customerName: cell.text.nullable(),
  amount: cell.sum,
  currency: cell.text,
  told: cell.text,
  personId: cell.whole,
  by: cell.text,
  at: cell.text,
  date: cell.text,
  decidedBy: cell.text.nullable(),
  decidedAt: cell.text.nullable(),
  reason: cell.text,
  comments: cell.sum,
})
type Row = z.output<typeof rowCells>

const WAITING = `SELECT w.id, w.name, w.ask, w.kind, w.state, w.about, c.number AS customerNumber,
    c.name AS customerName, w.amount, w.currency, w.told, w.person_id AS personId, p.name AS \`by\`, w.at, w.on_date AS date,
    d.name AS decidedBy, w.decided_at AS decidedAt, w.reason,
    (SELECT COUNT(*) FROM sign_off_comment s WHERE s.waiting_id = w.id) AS comments
  FROM waiting_command w JOIN person p ON p.id = w.person_id LEFT JOIN person d ON d.id = w.decided_by
  LEFT JOIN customer c ON c.id = w.customer_id`

/** So many are listed; what waits longest comes first, what was decided last too. */
const SHOWN = 200

const signerOfRow = z.object({
  absentId: cell.whole,
  deputyId: cell.whole,
  from: cell.text,
  until: cell.text,
  role: cell.word<Role>(),
})

/** Somebody with those they stand in for today. */
export async function signerOf(database: Handle, actor: Actor): Promise<Signer> {
  const { today } = await readSettings(database)
  const rows = await database.rows(
    signerOfRow,
    `SELECT d.absent_id AS absentId, d.deputy_id AS deputyId, d.from_date AS \`from\`, d.until_date AS until, p.role
      FROM deputy d JOIN person p ON p.id = d.absent_id AND p.active = 1 WHERE d.deputy_id = :id`,
    { id: actor.id },
  )
  const absent = new Set(standsInFor(rows, actor.id, today))
  return {
    ...actor,
    standsInFor: rows.filter(r => absent.has(r.absentId)).map(r => ({ id: r.absentId, role: r.role })),
  }
}

function shown(row: Row, signer: Signer): WaitingRow {
  const refused = row.state === 'waiting' ? signerRefusal(signer, row.personId) : null
  return {
    id: row.id,
    kind: row.kind,
    label: SIGN_OFF_KINDS[row.kind as Signed]?.label ?? row.name,
    state: row.state,
    about: row.about,
    customer: row.customerNumber === null ? null : { number: row.customerNumber, name: row.customerName! },
    amount: row.amount === null ? null : int(row.amount),
    currency: row.currency,
    changes: JSON.parse(row.told) as Change[],
    by: row.by,
    at: row.at,
    date: row.date,
    own: row.personId === signer.id,
    decidedBy: row.decidedBy,
    decidedAt: row.decidedAt,
    reason: row.reason,
    comments: int(row.comments),
    maySign: row.state === 'waiting' && refused === null,
    whyNot: refused ? `${refused.refusals[0]!.message}: ${refused.refusals[0]!.satisfy}` : '',
  }
}

const listSignOffRow = z.object({
  n: cell.sum,
})

export async function listSignOff(
  database: Handle,
  actor: Actor,
  q: { state: 'waiting' | 'own' | 'decided' },
) {
  const signer = await signerOf(database, actor)
  const where = {
    waiting: `w.state = 'waiting' ORDER BY w.at, w.id`,
    own: `w.person_id = :me AND w.state IN ('waiting', 'returned') ORDER BY w.state, w.at, w.id`,
    decided: `w.state IN ('signed', 'declined', 'withdrawn') ORDER BY w.decided_at DESC, w.id DESC`,
  }[q.state]
  const [rows, [count]] = await Promise.all([
    database.rows(rowCells, `${WAITING} WHERE ${where} LIMIT ${SHOWN}`, { me: actor.id }),
    database.rows(listSignOffRow, `SELECT COUNT(*) AS n FROM waiting_command WHERE state = 'waiting'`),
  ])
  return { items: rows.map(row => shown(row, signer)), waiting: int(count!.n) }
}

async function rowOf(database: Handle, id: number): Promise<Row> {
  const [row] = await database.rows(rowCells, `${WAITING} WHERE w.id = :id`, { id })
  if (!row) throw notFound(`request ${id}`, 'reload the list')
  return row
}

async function authorOf(database: Handle, personId: number): Promise<Actor> {
  const author = await findActor(database, personId)
  if (!author)
    throw new ProblemError(409, 'Nobody asks any more', 'who asked for this has no access now: decline it')
  return author
}

/** What a request would do if it were signed at this moment: the same core decides as when it is. */
async function nowOf(
  database: Handle,
  author: By,
  row: Row,
): Promise<Pick<WaitingDetail, 'now' | 'refusals' | 'proof'>> {
  const what = commandNamed(row.name)
  const ask = JSON.parse(row.ask) as unknown
  const { decided, state } = await wouldDecide(database, author, what, ask)
  if (!decided.ok) return { now: [], refusals: decided.refusals, proof: null }
  const now = what.changes?.(state, what.input.parse(ask)) ?? []
  const proof = decided.postings.length ? await prove(database, author, what, ask as never) : null
  return { now, refusals: [], proof }
}

const readSignOffRow = z.object({
  by: cell.text,
  at: cell.text,
  text: cell.text,
})

export async function readSignOff(database: Handle, actor: Actor, id: number): Promise<WaitingDetail> {
  const row = await rowOf(database, id)
  const said = await database.rows(
    readSignOffRow,
    `SELECT p.name AS \`by\`, s.at, s.text FROM sign_off_comment s JOIN person p ON p.id = s.person_id
      WHERE s.waiting_id = :id ORDER BY s.id`,
    { id },
  )
  const isOpen = row.state === 'waiting' || row.state === 'returned'
  const now = isOpen
    ? await nowOf(database, await authorOf(database, row.personId), row)
    : { now: [], refusals: [], proof: null }
  const { reason } = JSON.parse(row.ask) as { reason?: unknown }
  return {
    ...shown(row, await signerOf(database, actor)),
    why: typeof reason === 'string' ? reason : '',
    ...now,
    said,
  }
}

export async function signRequest(database: Handle, actor: Actor, id: number): Promise<{ id: number }> {
  await sign(
    database,
    await signerOf(database, actor),
    author => authorOf(database, author),
    commandNamed,
    id,
  )
  return { id }
}

export async function turnRequestDown(
  database: Handle,
  actor: Actor,
  id: number,
  to: Exclude<Decided | 'returned', 'signed' | 'withdrawn'>,
  reason: string,
): Promise<{ id: number }> {
  await turnDown(database, await signerOf(database, actor), id, to, reason)
  return { id }
}

/** Asks again for what was sent back, with other values where its Command sets fields. */
export async function askRequestAgain(
  database: Handle,
  actor: Actor,
  id: number,
  set: Record<string, string | number | null>,
): Promise<{ id: number }> {
  const row = await rowOf(database, id)
  const ask = JSON.parse(row.ask) as { set?: object }
  const changed = Object.keys(set).length ? { ...ask, set: { ...ask.set, ...set } } : ask
  const parsed = commandNamed(row.name).input.safeParse(changed)
  if (!parsed.success)
    throw new ProblemError(422, 'Not as asked', 'these are not fields of what was asked for', [
      { path: 'set', message: 'not fields of the request', satisfy: 'use those it was asked for with' },
    ])
  await askAgain(database, actor, commandNamed, id, changed)
  return { id }
}

export async function commentOn(
  database: Handle,
  actor: Actor,
  id: number,
  text: string,
): Promise<{ id: number }> {
  await rowOf(database, id)
  const [comment] = await database.insert('sign_off_comment', [{ waiting_id: id, text, person_id: actor.id }])
  return { id: comment! }
}

import { z } from 'zod'
import { cell } from '../../db/rows'
import { Op } from '../../db/where'
import type { Message, messages as operations } from '../../../contract/messages'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { audit, changes, readSettings } from '../../db/settings'
import { findCustomer } from '../accounts/customers'
import { notFound, ProblemError } from '../common/problems'
import { handOverDisputes } from '../disputes/open'
import type { Actor, Scope } from '../people/scope'

const rowCells = z.object({
  id: cell.whole,
  customerNumber: cell.text,
  customerName: cell.text,
  about: z.enum(['receipt', 'account', 'item', 'order']),
  aboutId: cell.whole.nullable(),
  label: cell.text.nullable(),
  firstId: cell.whole.nullable(),
  fromId: cell.whole,
  fromEmail: cell.text,
  fromName: cell.text,
  toId: cell.whole,
  toEmail: cell.text,
  toName: cell.text,
  text: cell.text,
  date: cell.text,
  at: cell.text,
  due: cell.text.nullable(),
  readAt: cell.text.nullable(),
  doneAt: cell.text.nullable(),
  doneBy: cell.text.nullable(),
})
type Row = z.output<typeof rowCells>

const MESSAGES = `SELECT m.id, c.number AS customerNumber, c.name AS customerName, m.about, m.about_id AS aboutId,
    CASE m.about WHEN 'order' THEN (SELECT o.number FROM sales_order o WHERE o.id = m.about_id)
      WHEN 'account' THEN NULL ELSE (SELECT i.number FROM item i WHERE i.id = m.about_id) END AS label,
    m.first_id AS firstId, f.id AS fromId, f.email AS fromEmail, f.name AS fromName, t.id AS toId,
    t.email AS toEmail, t.name AS toName, m.text, m.on_date AS date, m.at, m.due, m.read_at AS readAt,
    m.done_at AS doneAt, d.name AS doneBy
  FROM message m JOIN customer c ON c.id = m.customer_id JOIN person f ON f.id = m.person_id
    JOIN person t ON t.id = m.to_id LEFT JOIN person d ON d.id = m.done_by`

/** Where what a message is about is opened. */
function linkOf(row: Row): Message['link'] {
  const account = `/accounts/${encodeURIComponent(row.customerNumber)}`
  if (row.about === 'receipt')
    return { label: `Receipt ${row.label ?? ''}`.trim(), to: `/receipts/${row.aboutId}` }
  if (row.about === 'item')
    return { label: row.label ?? 'an item', to: `${account}?find=${encodeURIComponent(row.label ?? '')}` }
  if (row.about === 'order')
    return {
      label: `Order ${row.label ?? ''}`.trim(),
      to: `/exposure/${encodeURIComponent(row.customerNumber)}`,
    }
  return { label: row.customerName, to: account }
}

function shown(row: Row, answers: readonly Row[], actor: Actor): Message {
  const word = (r: Row) => ({
    id: r.id,
    from: { email: r.fromEmail, name: r.fromName },
    at: r.at,
    date: r.date,
    text: r.text,
  })
  const waits = (r: Row) => r.toId === actor.id && r.readAt === null
  return {
    ...word(row),
    customer: { number: row.customerNumber, name: row.customerName },
    about: row.about,
    link: linkOf(row),
    to: { email: row.toEmail, name: row.toName },
    mine: row.toId === actor.id,
    unread: waits(row) || answers.some(waits),
    due: row.due,
    done: row.doneAt === null ? null : { by: row.doneBy ?? '', at: row.doneAt },
    answers: answers.map(word),
  }
}

/** Messages to whoever asks, by them, or of an account, each with its answers; the newest first. */
export async function listMessages(
  database: Handle,
  actor: Actor,
  q: z.output<NonNullable<(typeof operations.list)['query']>>,
  scope: Scope,
): Promise<{ items: Message[]; next: number | null }> {
  const values: Values = { me: actor.id, before: q.before ?? 0, salesId: scope.salesId ?? 0 }
  // A conversation is mine when any word of it is to me, or by me.
  const part = (column: string) =>
    `(m.${column} = :me OR EXISTS (SELECT 1 FROM message a WHERE a.first_id = m.id AND a.${column} = :me))`
  const boxes = {
    mine: part('to_id'),
    tasks: 'm.to_id = :me AND m.due IS NOT NULL AND m.done_at IS NULL',
    sent: part('person_id'),
    all: !scope.salesId ? '1 = 1' : `(${part('to_id')} OR ${part('person_id')})`,
  }
  const where = ['m.first_id IS NULL', boxes[q.box]]
  if (q.customer) {
    values.customerId = (await findCustomer(database, q.customer, scope)).id
    where.push('m.customer_id = :customerId')
  }
  if (q.before) where.push('m.id < :before')
  const rows = await database.rows(
    rowCells,
    `${MESSAGES} WHERE ${where.join(' AND ')} ORDER BY m.id DESC LIMIT ${q.limit + 1}`,
    values,
  )
  const heads = rows.slice(0, q.limit)
  const answers = heads.length
    ? await database.rows(rowCells, `${MESSAGES} WHERE m.first_id IN (:ids) ORDER BY m.id`, {
        ids: heads.map(r => r.id),
      })
    : []
  return {
    items: heads.map(row =>
      shown(
        row,
        answers.filter(a => a.firstId === row.id),
        actor,
      ),
    ),
    next: rows.length > q.limit ? heads.at(-1)!.id : null,
  }
}

const unreadOfRow = z.object({
  messages: cell.sum,
  tasks: cell.sum,
  mail: cell.sum,
})

export async function unreadOf(database: Handle, actor: Actor, scope: Scope) {
  const own = scope.salesId ? 'AND customer_id IN (SELECT id FROM customer WHERE sales_id = :me)' : ''
  const [row] = await database.rows(
    unreadOfRow,
    `SELECT (SELECT COUNT(*) FROM message WHERE to_id = :me AND read_at IS NULL) AS messages,
      (SELECT COUNT(*) FROM message WHERE to_id = :me AND due IS NOT NULL AND done_at IS NULL) AS tasks,
      (SELECT COUNT(*) FROM inbox WHERE state = 'new' ${own}) AS mail`,
    { me: actor.id },
  )
  return { messages: int(row!.messages), tasks: int(row!.tasks), mail: int(row!.mail) }
}

export async function peopleToWriteTo(database: Handle, actor: Actor) {
  const items = await database.find(
    'person',
    { active: 1, id: { [Op.ne]: actor.id }, role: { [Op.ne]: 'auditor' } },
    { columns: ['email', 'name', 'role'], order: ['name'] },
  )
  return { items }
}

async function personWith(
  database: Handle,
  email: string,
  path: string,
): Promise<{ id: number; role: string }> {
  const [row] = await database.find('person', { email, active: 1 }, { columns: ['id', 'role'] })
  if (!row)
    throw new ProblemError(422, 'Nobody', `nobody here has the address ${email}`, [
      { path, message: 'nobody with this address', satisfy: 'choose one of the people' },
    ])
  return row
}

const checkAboutRow = z.object({
  id: cell.sum,
})

/** Whether what a message is about is there, and of this customer. */
async function checkAbout(
  database: Handle,
  customerId: number,
  about: Message['about'],
  aboutId: number | null,
) {
  if (about === 'account') return
  const table = about === 'order' ? 'sales_order' : 'item'
  const [row] = await database.rows(
    checkAboutRow,
    `SELECT id FROM ${table} WHERE id = :aboutId AND customer_id = :customerId`,
    {
      aboutId: aboutId ?? 0,
      customerId,
    },
  )
  if (!row) throw notFound(`${about} ${aboutId ?? ''} of this customer`)
}

/** Writes to a colleague. A sales contact can only be written to about their own customers. */
export async function writeMessage(
  database: Handle,
  actor: Actor,
  body: z.output<NonNullable<(typeof operations.write)['body']>>,
  scope: Scope,
): Promise<{ id: number }> {
  const { today } = await readSettings(database)
  const customer = await findCustomer(database, body.customer, scope)
  const to = await personWith(database, body.to, 'to')
  if (to.role === 'sales') await findCustomer(database, body.customer, { salesId: to.id })
  await checkAbout(database, customer.id, body.about, body.aboutId)
  if (body.due !== null && body.due < today)
    throw new ProblemError(422, 'Over', `${body.due} is over: a task is for today or later`, [
      { path: 'due', message: 'in the past', satisfy: `a day from ${today} on` },
    ])
  const [id] = await database.insert('message', [
    {
      customer_id: customer.id,
      about: body.about,
      about_id: body.about === 'account' ? null : body.aboutId,
      to_id: to.id,
      text: body.text,
      on_date: today,
      due: body.due,
      person_id: actor.id,
    },
  ])
  return { id: id! }
}

/** Who sees only their own customers takes part in a conversation, or it is not theirs. */
const TAKES_PART = `(m.to_id = :salesId OR m.person_id = :salesId OR EXISTS (SELECT 1 FROM message a
    WHERE a.first_id = m.id AND (a.to_id = :salesId OR a.person_id = :salesId)))`

/** The first message of a conversation that somebody takes part in, or that is about a customer they see. */
async function headOf(database: Handle, id: number, scope: Scope): Promise<Row> {
  const [row] = await database.rows(
    rowCells,
    `${MESSAGES} WHERE m.id = (SELECT COALESCE(x.first_id, x.id) FROM message x WHERE x.id = :id)
      ${scope.salesId ? `AND c.sales_id = :salesId AND ${TAKES_PART}` : ''}`,
    { id, salesId: scope.salesId ?? 0 },
  )
  if (!row) throw notFound(`message ${id}`)
  return row
}

/** Answers: to who wrote, or to whom it was written when who wrote answers themselves. */
export async function answerMessage(
  database: Handle,
  actor: Actor,
  id: number,
  text: string,
  scope: Scope,
): Promise<{ id: number }> {
  const { today } = await readSettings(database)
  const head = await headOf(database, id, scope)
  const [customer] = await database.find('message', { id: head.id }, { columns: { id: 'customer_id' } })
  const [answer] = await database.insert('message', [
    {
      customer_id: customer!.id,
      about: head.about,
      about_id: head.aboutId,
      first_id: head.id,
      to_id: head.fromId === actor.id ? head.toId : head.fromId,
      text,
      on_date: today,
      person_id: actor.id,
    },
  ])
  await markRead(database, actor, head.id, scope)
  return { id: answer! }
}

/** What of a conversation is to whoever asks was read by them. */
export async function markRead(
  database: Handle,
  actor: Actor,
  id: number,
  scope: Scope,
): Promise<{ read: number }> {
  const head = await headOf(database, id, scope)
  const done = await database.run(
    `UPDATE message SET read_at = UTC_TIMESTAMP(3) WHERE (id = :id OR first_id = :id) AND to_id = :me
      AND read_at IS NULL`,
    { id: head.id, me: actor.id },
  )
  return { read: done.affectedRows }
}

/** A task is done, or open again. By whom it is for, or who asked for it. */
export async function markDone(
  database: Handle,
  actor: Actor,
  id: number,
  done: boolean,
  scope: Scope,
): Promise<{ done: boolean }> {
  const head = await headOf(database, id, scope)
  if (head.due === null)
    throw new ProblemError(409, 'No task', 'this message asks for nothing by a day: answer it instead')
  if (head.toId !== actor.id && head.fromId !== actor.id)
    throw new ProblemError(403, 'Not yours', 'a task is done by whom it is for, or by who asked for it')
  await database.run(
    `UPDATE message SET done_at = ${done ? 'UTC_TIMESTAMP(3)' : 'NULL'}, done_by = :by WHERE id = :id`,
    { id: head.id, by: done ? actor.id : null },
  )
  return { done }
}

/** All that waits for somebody goes to somebody else, so that nothing is lost when they leave. */
export async function handOver(
  database: Handle,
  actor: Actor,
  { from, to }: { from: string; to: string },
): Promise<{ messages: number; disputes: number; accounts: number }> {
  const [leaving] = await database.find('person', { email: from }, { columns: ['id'] })
  if (!leaving) throw notFound(`a person with the address ${from}`)
  const heir = await personWith(database, to, 'to')
  if (heir.id === leaving.id)
    throw new ProblemError(422, 'The same', 'nothing is handed over to oneself', [
      { path: 'to', message: 'the same person', satisfy: 'choose somebody else' },
    ])
  return database.transaction(async tx => {
    const ids = { from: leaving.id, to: heir.id }
    const messages = await tx.run(
      `UPDATE message SET to_id = :to WHERE to_id = :from AND (read_at IS NULL OR (due IS NOT NULL AND done_at IS NULL))`,
      ids,
    )
    const disputes = await handOverDisputes(tx, leaving.id, heir.id)
    const accounts = await tx.update('customer', { controller_id: ids.to }, { controller_id: ids.from })
    if (accounts) await changes(tx, 'customers')
    await audit(tx, actor.id, 'person', from, null, `handed over to ${to}`)
    return { messages: messages.affectedRows, disputes, accounts }
  })
}

import { z } from 'zod'
import { cell } from '../../db/rows'
import type { MailValues } from '../../../core/inbox'
import type { inbox as operations, mailAction, MailDetail, MailPage, MailRow } from '../../../contract/inbox'
import { disputeBody } from '../../../contract/disputes'
import type { Handle, Values } from '../../db/handle'
import { audit } from '../../db/settings'
import { int } from '../../db/connection'
import { perform } from '../../ledger/command'
import { changeCustomer } from '../accounts/master/change'
import { readMaster } from '../accounts/master/read'
import { findCustomer } from '../accounts/customers'
import { cut, decodeCursor } from '../common/paging'
import { portFault } from '../common/portFault'
import { notFound, ProblemError } from '../common/problems'
import { disputeCommand } from '../disputes/open'
import { sendCopy, sendStatement } from '../letters/statements'
import type { Actor, Scope } from '../people/scope'
import { promiseCommand } from '../promises/promises'

interface Row extends Omit<MailRow, 'customer' | 'doneBy'> {
  customerId: number | null
  customerNumber: string | null
  customerName: string | null
  doneBy: string | null
  text: string
  found: string
  outboxId: number | null
  answersTo: string | null
}

const MAILS = `SELECT m.id, m.on_date AS date, m.sender, m.subject, m.kind, m.customer_id AS customerId,
    c.number AS customerNumber, c.name AS customerName, m.found_by AS foundBy, m.state, m.done_as AS doneAs,
    p.name AS doneBy, m.text, m.found, m.outbox_id AS outboxId, o.subject AS answersTo
  FROM inbox m LEFT JOIN customer c ON c.id = m.customer_id LEFT JOIN person p ON p.id = m.done_by
    LEFT JOIN outbox o ON o.id = m.outbox_id`

const shown = (row: Row): MailRow => ({
  id: row.id,
  date: row.date,
  sender: row.sender,
  subject: row.subject,
  kind: row.kind,
  customer: row.customerNumber === null ? null : { number: row.customerNumber, name: row.customerName! },
  foundBy: row.foundBy,
  state: row.state,
  doneAs: row.doneAs,
  doneBy: row.doneBy ?? '',
})
const within = (scope: Scope) => (scope.salesId ? 'AND c.sales_id = :salesId' : '')

const listMailRow = z.object({
  customerId: cell.whole.nullable(),
  customerNumber: cell.text.nullable(),
  customerName: cell.text.nullable(),
  doneBy: cell.text.nullable(),
  text: cell.text,
  found: cell.text,
  outboxId: cell.whole.nullable(),
  answersTo: cell.text.nullable(),
  id: cell.whole,
  date: cell.text,
  kind: z.enum(['promise', 'person', 'dispute', 'other', 'copy', 'absent', 'bounce']),
  state: z.enum(['done', 'new']),
  subject: cell.text,
  sender: cell.text,
  foundBy: z.enum(['', 'number', 'hand', 'address', 'reply', 'domain']),
  doneAs: cell.text,
})

const listMailInboxRow = z.object({
  n: cell.sum,
})

/** Mail of customers, the newest first. */
export async function listMail(
  database: Handle,
  q: z.output<NonNullable<(typeof operations.list)['query']>>,
  scope: Scope,
): Promise<MailPage> {
  const values: Values = { state: q.state, salesId: scope.salesId ?? 0 }
  const cursor = decodeCursor(q.cursor, 1)
  if (cursor) [values.lastId] = cursor
  const [rows, [count], unreachable] = await Promise.all([
    database.rows(
      listMailRow,
      `${MAILS} WHERE ${q.state === 'all' ? '1 = 1' : 'm.state = :state'} ${within(scope)}
        ${cursor ? 'AND m.id < :lastId' : ''} ORDER BY m.id DESC LIMIT ${q.limit + 1}`,
      values,
    ),
    database.rows(
      listMailInboxRow,
      `SELECT COUNT(*) AS n FROM inbox m LEFT JOIN customer c ON c.id = m.customer_id WHERE m.state = 'new' ${within(scope)}`,
      values,
    ),
    portFault(database, 'mail in'),
  ])
  const page = cut(rows, q.limit, r => [r.id])
  return { items: page.items.map(shown), waiting: int(count!.n), next: page.next, unreachable }
}

async function rowOf(database: Handle, id: number, scope: Scope): Promise<Row> {
  const [row] = await database.rows(listMailRow, `${MAILS} WHERE m.id = :id ${within(scope)}`, {
    id,
    salesId: scope.salesId ?? 0,
  })
  if (!row) throw notFound(`mail ${id}`)
  return row
}

const readInboxMailRow = z.object({
  id: cell.whole,
  number: cell.text,
  currency: cell.text,
  open: cell.whole,
})

/** A mail, with the documents of its customer that it names. */
export async function readInboxMail(database: Handle, id: number, scope: Scope): Promise<MailDetail> {
  const row = await rowOf(database, id, scope)
  const values = JSON.parse(row.found) as MailValues
  const items =
    row.customerId !== null && values.numbers.length
      ? await database.rows(
          readInboxMailRow,
          `SELECT i.id, i.number, i.currency, COALESCE(o.open, 0) AS open FROM item i
            LEFT JOIN open_item o ON o.item_id = i.id WHERE i.customer_id = :customerId AND i.register = 'document'
            AND i.number IN (:numbers) ORDER BY i.due_date, i.id`,
          { customerId: row.customerId, numbers: values.numbers },
        )
      : []
  const { date, amount, address, reason } = values
  return {
    ...shown(row),
    text: row.text,
    answersTo: row.outboxId === null ? null : { message: row.outboxId, subject: row.answersTo ?? '' },
    found: { date, amount, address, reason, items },
  }
}

/** Says whose a mail is. */
export async function assignMail(
  database: Handle,
  actor: Actor,
  id: number,
  number: string,
  scope: Scope,
): Promise<MailDetail> {
  await rowOf(database, id, scope)
  const customer = await findCustomer(database, number, scope)
  await database.update('inbox', { customer_id: customer.id, found_by: 'hand' }, { id })
  await audit(database, actor.id, 'mail', customer.number, null, `mail ${id} is theirs`)
  return readInboxMail(database, id, scope)
}

type Action = z.output<typeof mailAction>

const WORDS: Record<Action['do'], string> = {
  promise: 'promise noted',
  dispute: 'dispute opened',
  copies: 'copies sent',
  statement: 'statement sent',
  address: 'address corrected',
  read: 'read',
}

/** What is done on an answer; the values are those that a person confirmed. */
async function carryOut(
  database: Handle,
  actor: Actor,
  number: string,
  action: Action,
  why: string,
  scope: Scope,
): Promise<void> {
  switch (action.do) {
    case 'promise':
      await perform(database, actor, promiseCommand, {
        customer: number,
        currency: action.currency,
        items: action.items,
        parts: [{ date: action.date, amount: action.amount }],
        text: why,
      })
      return
    case 'dispute':
      await perform(
        database,
        actor,
        disputeCommand,
        disputeBody.parse({ customer: number, reason: action.reason, text: why, items: action.items }),
      )
      return
    case 'copies':
      for (const itemId of action.itemIds) await sendCopy(database, actor, itemId, scope)
      return
    case 'statement':
      await sendStatement(database, actor, number, { form: 'open-item' }, scope)
      return
    case 'address': {
      const { version } = await readMaster(database, number, scope)
      await changeCustomer(
        database,
        actor,
        number,
        { version, set: { email: action.email }, reason: why },
        scope,
      )
      return
    }
    case 'read':
  }
}

/**
 * Does what a mail asks for. It is claimed first, so that two people do it once; what is refused gives it
 * back.
 */
export async function actOnMail(
  database: Handle,
  actor: Actor,
  id: number,
  action: Action,
  scope: Scope,
): Promise<MailDetail> {
  const row = await rowOf(database, id, scope)
  if (row.customerNumber === null && action.do !== 'read')
    throw new ProblemError(409, 'Whose is it', 'nobody knows whose mail this is: say that first', [
      { path: 'customer', message: 'not known', satisfy: 'choose the customer' },
    ])
  const claimed = await database.update(
    'inbox',
    { state: 'done', done_by: actor.id, done_as: WORDS[action.do] },
    { id, state: 'new' },
  )
  if (!claimed)
    throw new ProblemError(
      409,
      'Done already',
      `this mail was answered meanwhile: ${row.doneAs || 'read it again'}`,
    )
  try {
    await carryOut(
      database,
      actor,
      row.customerNumber ?? '',
      action,
      `mail: ${row.subject}`.slice(0, 180),
      scope,
    )
  } catch (error) {
    await database.update('inbox', { state: 'new', done_by: null, done_as: '' }, { id })
    throw error
  }
  return readInboxMail(database, id, scope)
}

import { cell } from '../../db/rows'
import { z } from 'zod'
import { handovers as operations, type HandoverRow } from '../../../contract/reminders/handover'
import { postDocument } from '../../../core/documents'
import { kindList, refuse, refused } from '../../../core/ledger'
import { rateOf, rateRefusals } from '../../../core/rates'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { audit, readSettings, type Settings } from '../../db/settings'
import { command, perform, type By, type Idempotency } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { takeLocks } from '../../ledger/locks'
import { findCustomer } from '../accounts/customers'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'

const rowCells = z.object({
  id: cell.whole,
  customerId: cell.whole,
  number: cell.text,
  name: cell.text,
  agency: cell.text,
  on: cell.text,
  by: cell.text,
  reason: cell.text,
  amount: cell.whole,
  endedOn: cell.text.nullable(),
  endedWhy: cell.text,
  open: cell.sum,
  received: cell.sum,
})
type Row = z.output<typeof rowCells>

/** Money that came after an account was handed over: what the agency brought, or was paid to us. */
const RECEIVED = `(SELECT COALESCE(SUM(i.base_amount), 0) FROM item i WHERE i.customer_id = h.customer_id
    AND i.entry_id > h.after_entry AND i.kind IN (${kindList(k => k.money)})
    AND NOT EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id))`
/** What is open now of the items that were handed over. */
const OPEN = `(SELECT COALESCE(SUM(o.base_open), 0) FROM open_item o JOIN item i ON i.id = o.item_id
    WHERE o.customer_id = h.customer_id AND i.entry_id <= h.after_entry)`
const ROWS = `SELECT h.id, h.customer_id AS customerId, c.number, c.name, h.agency, h.on_date AS \`on\`,
    p.name AS \`by\`, h.reason, h.amount, h.ended_on AS endedOn, h.ended_why AS endedWhy, ${OPEN} AS \`open\`,
    ${RECEIVED} AS received
  FROM handover h JOIN customer c ON c.id = h.customer_id JOIN person p ON p.id = h.person_id`

const shownRow = z.object({
  id: cell.whole,
  on: cell.text,
  text: cell.text,
  currency: cell.text,
  amount: cell.whole,
  charged: cell.text.nullable(),
  handoverId: cell.whole,
})

async function shown(database: Handle, rows: readonly Row[]): Promise<HandoverRow[]> {
  if (!rows.length) return []
  const costs = await database.rows(
    shownRow,
    `SELECT k.handover_id AS handoverId, k.id, k.on_date AS \`on\`, k.text, k.currency, k.amount,
      i.number AS charged FROM handover_cost k LEFT JOIN item i ON i.id = k.item_id
      WHERE k.handover_id IN (:ids) ORDER BY k.id`,
    { ids: rows.map(r => r.id) },
  )
  return rows.map(r => ({
    id: r.id,
    customer: { number: r.number, name: r.name },
    agency: r.agency,
    on: r.on,
    by: r.by,
    reason: r.reason,
    amount: int(r.amount),
    open: int(r.open),
    received: int(r.received),
    costs: costs.filter(k => k.handoverId === r.id).map(({ handoverId: _, ...k }) => k),
    ended: r.endedOn === null ? null : { on: r.endedOn, why: r.endedWhy },
  }))
}

export async function readHandover(database: Handle, id: number): Promise<HandoverRow> {
  const rows = await database.rows(rowCells, `${ROWS} WHERE h.id = :id`, { id })
  if (!rows.length) throw notFound(`handover ${id}`)
  return (await shown(database, rows))[0]!
}

const listHandoversRow = z.object({
  number: cell.text,
  name: cell.text,
  level: cell.whole,
  noticeNumber: cell.text,
  deadline: cell.text,
  open: cell.sum,
})

/** Those that run first; and the accounts whose last notice says so, once its deadline is over. */
export async function listHandovers(database: Handle) {
  const { base, today } = await readSettings(database)
  const [rows, proposed] = await Promise.all([
    database.rows(rowCells, `${ROWS} ORDER BY h.ended_on IS NOT NULL, h.id DESC LIMIT 500`),
    database.rows(
      listHandoversRow,
      `SELECT c.number, c.name, MAX(n.level) AS level, MAX(n.number) AS noticeNumber, MAX(n.deadline) AS deadline,
        (SELECT SUM(x.base_open) FROM open_item x WHERE x.customer_id = c.id AND x.open > 0
          AND x.due_date < :today) AS open
        FROM live_notice n JOIN customer c ON c.id = n.customer_id
        WHERE n.hands_over = 1 AND n.deadline < :today
        AND EXISTS (SELECT 1 FROM notice_item ni JOIN open_item o ON o.item_id = ni.item_id
          WHERE ni.notice_id = n.id AND ni.level = n.level)
        AND NOT EXISTS (SELECT 1 FROM handover h WHERE h.customer_id = c.id AND h.ended_on IS NULL)
        GROUP BY c.id ORDER BY open DESC LIMIT 500`,
      { today },
    ),
  ])
  return {
    base,
    items: await shown(database, rows),
    proposed: proposed.map(({ number, name, open, ...p }) => ({
      ...p,
      customer: { number, name },
      open: int(open),
    })),
  }
}

const handOverRow = z.object({
  id: cell.whole,
  number: cell.text,
  currency: cell.text,
  open: cell.whole,
  base: cell.whole,
})

const handOverEntryRow = z.object({
  id: cell.whole.nullable(),
})

/** Hands an account over: what is open is kept as it was, and reminders leave it out from now on. */
export async function handOver(
  database: Handle,
  actor: Actor,
  body: z.output<NonNullable<(typeof operations.handOver)['body']>>,
): Promise<HandoverRow> {
  const { id: customerId } = await findCustomer(database, body.customer, {})
  const id = await database.transaction(async tx => {
    const { today } = await takeLocks(tx, { customers: [customerId] })
    const [there] = await tx.find(
      'handover',
      { customer_id: customerId, ended_on: null },
      { columns: ['agency'] },
    )
    if (there)
      throw new ProblemError(
        409,
        'Handed over',
        `this account is with ${there.agency} already: end that first`,
      )
    const items = await tx.rows(
      handOverRow,
      `SELECT i.id, i.number, o.currency, o.open, o.base_open AS base FROM open_item o
        JOIN item i ON i.id = o.item_id WHERE o.customer_id = :customerId ORDER BY o.due_date, i.id`,
      { customerId },
    )
    if (!items.some(i => i.open > 0))
      throw new ProblemError(
        422,
        'Nothing open',
        'nothing is open on this account: there is nothing to hand over',
      )
    const [last] = await tx.rows(handOverEntryRow, 'SELECT MAX(id) AS id FROM entry')
    const [row] = await tx.insert('handover', [
      {
        customer_id: customerId,
        agency: body.agency,
        on_date: today,
        reason: body.reason,
        items: JSON.stringify(items),
        amount: items.reduce((sum, i) => sum + int(i.base), 0),
        after_entry: last!.id ?? 0,
        person_id: actor.id,
      },
    ])
    await audit(tx, actor.id, 'handover', body.customer, null, `${body.agency}: ${body.reason}`)
    return row!
  })
  return readHandover(database, id)
}

export async function endHandover(
  database: Handle,
  actor: Actor,
  id: number,
  body: { why: string },
): Promise<HandoverRow> {
  const { customer } = await readHandover(database, id)
  await database.transaction(async tx => {
    const { today } = await readSettings(tx)
    const done = await tx.update('handover', { ended_on: today, ended_why: body.why }, { id, ended_on: null })
    if (!done) throw new ProblemError(409, 'Ended already', 'this was ended meanwhile: reload it')
    await audit(tx, actor.id, 'handover', customer.number, null, `ended: ${body.why}`)
  })
  return readHandover(database, id)
}

const costAsk = operations.cost.body!.extend({ id: z.int() })

/** What an agency costs; charged on to the customer it is a debit of the account, due at once. */
export const costCommand = command({
  name: 'reminders.handoverCost',
  ability: 'reminders.run',
  input: costAsk,
  locks: async (db, input) => ({
    customers: [(await findCustomer(db, (await readHandover(db, input.id)).customer.number, {})).id],
  }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const handover = await readHandover(db, input.id)
    const customer = await findCustomer(db, handover.customer.number, {})
    const rates = [{ currency: input.currency, date: input.on }]
    const ledger = await loadState(db, { customerIds: [customer.id], rates }, settings)
    return { handover, customer, ledger }
  },
  decide: ({ handover, customer, ledger }, input) => {
    if (handover.ended)
      return refused([refuse('handover.open', 'id', 'this is over', 'record costs while it runs')])
    if (input.on > ledger.today)
      return refused([
        refuse('date.future', 'on', `${input.on} is after today`, `use ${ledger.today} or earlier`),
      ])
    if (!input.charge) return { ok: true, postings: [], facts: null }
    const refusals = rateRefusals(ledger, input.currency, input.on, 'currency')
    if (refusals.length) return refused(refusals)
    const decision = postDocument(ledger, {
      customerId: customer.id,
      kind: 'charge',
      number: '',
      series: 'charge',
      currency: input.currency,
      amount: input.amount,
      tax: 0,
      documentDate: input.on,
      parts: [{ dueDate: input.on, amount: input.amount }],
      discounts: [],
      rate: rateOf(ledger, input.currency, input.on)!,
      order: '',
      text: input.text,
    })
    return decision.ok ? { ok: true, postings: [decision.posting], facts: null } : decision
  },
  after: async ({ db, input, written, actor }) => {
    await db.insert('handover_cost', [
      {
        handover_id: input.id,
        on_date: input.on,
        currency: input.currency,
        amount: input.amount,
        text: input.text,
        item_id: written[0]?.items[0]?.id ?? null,
        person_id: actor.id,
      },
    ])
    return {}
  },
  about: input => `handover ${input.id}`,
})

export async function addCost(
  database: Handle,
  actor: Actor,
  id: number,
  body: z.output<NonNullable<(typeof operations.cost)['body']>>,
  idempotency?: Idempotency,
): Promise<HandoverRow> {
  await perform(database, actor, costCommand, { ...body, id }, idempotency)
  return readHandover(database, id)
}

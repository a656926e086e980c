import { z } from 'zod'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { age } from '../../../core/aging'
import { OUTCOMES } from '../../../core/callList'
import { nextPart } from '../../../core/promises'
import { addDays, daysLate, parseTerms } from '../../../core/calendar'
import type { Card } from '../../../contract/accounts'
import { int } from '../../db/connection'
import { readSettings, type Settings } from '../../db/settings'
import { NoRate } from '../../ledger/rates'
import { openAsOfSql } from '../../ledger/asOf'
import { writtenOffCount } from '../impairment/lists'
import { nextActions } from './nextActions'
import { HOLD_CAUSES } from '../../../core/exposure'
import { heldOf } from '../exposure/holds'
import { standingsOf } from '../exposure/standing'
import { disputedOf } from '../disputes/live'
import { promiseStands } from '../promises/stands'
import { findCustomer } from './customers'
import { type Actor, type Scope } from '../people/scope'
import { kindList } from '../../../core/ledger'

const MONEY = kindList(k => k.money)

/** "2 % within 10 days, 30 days net": the terms in words. */
export function termsInWords(text: string): string {
  const terms = parseTerms(text)
  const percent = (n: number) => `${n / 100} %`
  const due = terms.parts
    .map(
      p =>
        `${terms.parts.length > 1 ? `${percent(p.share)} ` : ''}${p.days} ` +
        `days${p.from === 'month-end' ? ' after month end' : ''}`,
    )
    .join(', ')
  return [...terms.discounts.map(d => `${percent(d.rate)} within ${d.days} days`), `${due} net`].join(', ')
}

const usualLatenessRow = z.object({
  late: cell.whole,
})

/**
 * How late a customer pays: mean days from due date to the payment that closed the invoice, all of two years
 * and the last six.
 */
async function usualLateness(database: Handle, customerId: number): Promise<Card['usualDaysLate']> {
  const rows = await database.rows(
    usualLatenessRow,
    `
    SELECT DATEDIFF(MAX(a.effective), i.due_date) AS late FROM item i
      JOIN allocation a ON a.debit_item_id = i.id LEFT JOIN open_item o ON o.item_id = i.id
    WHERE i.customer_id = :customerId AND i.kind = 'invoice' AND o.item_id IS NULL GROUP BY i.id, i.due_date
      ORDER BY MAX(a.effective) DESC LIMIT 48`,
    { customerId },
  )
  if (!rows.length) return null
  const mean = (list: { late: number }[]) =>
    Math.round((list.reduce((a, r) => a + r.late, 0) / list.length) * 10) / 10
  return { average: mean(rows), count: rows.length, recent: mean(rows.slice(0, 6)) }
}

const cardRow = z.object({
  level: cell.whole,
  date: cell.day,
  number: cell.text,
  noticeId: cell.whole,
})

/** How the account stands; without a rate it cannot be told, and the Card says so and shows all else. */
async function standOf(database: Handle, settings: Settings, customerId: number) {
  try {
    const standings = await standingsOf(database, settings, [customerId])
    const held = await heldOf(database, settings, standings, [customerId])
    const holds = (held.get(customerId)?.holds ?? []).map(h => ({
      label: HOLD_CAUSES[h.cause],
      words: h.words,
    }))
    return { standing: standings.get(customerId), holds, trouble: '' }
  } catch (error) {
    if (!(error instanceof NoRate)) throw error
    return { standing: undefined, holds: [], trouble: error.message }
  }
}

const chaseOfRow = z.object({
  on: cell.text,
  outcome: z.enum(['disputed', 'promised', 'reached', 'not-reached', 'wrong-contact', 'copies']),
  by: cell.text,
  nextDate: cell.text.nullable(),
})

const chaseOfInboxRow = z.object({
  n: cell.sum,
})

/** What was said with the customer: promises, disputes, the last call, mail that waits. */
async function chaseOf(
  database: Handle,
  settings: Settings,
  id: number,
): Promise<Pick<Card, 'promise' | 'broken' | 'disputed' | 'call' | 'mail'>> {
  const stands = [...(await promiseStands(database, settings, [id])).values()]
  const open = stands
    .filter(s => s.stand.state === 'open')
    .map(s => ({ id: s.promised.id, currency: s.promised.currency, part: nextPart(s.stand)! }))
    .sort((a, b) => (a.part.date < b.part.date ? -1 : 1))
  const since = addDays(settings.today, -60)
  const missed = stands
    .filter(s => s.promised.withdrawnOn === null)
    .flatMap(({ promised, stand }) =>
      stand.parts
        .filter(p => (p.state === 'broken' || p.state === 'partly') && p.until >= since)
        .map(part => ({ id: promised.id, currency: promised.currency, part })),
    )
    .sort((a, b) => (a.part.date < b.part.date ? 1 : -1))
  const told = (list: typeof open) => {
    const [first] = list
    if (!first) return null
    const { date, amount, paid } = first.part
    return { id: first.id, currency: first.currency, date, amount: amount - paid }
  }
  const [disputed, [call], [mail]] = await Promise.all([
    disputedOf(database, id),
    database.rows(
      chaseOfRow,
      `SELECT l.on_date AS \`on\`, l.outcome, p.name AS \`by\`, l.next_date AS nextDate FROM call_log l
        JOIN person p ON p.id = l.person_id WHERE l.customer_id = :id ORDER BY l.id DESC LIMIT 1`,
      { id },
    ),
    database.rows(
      chaseOfInboxRow,
      `SELECT COUNT(*) AS n FROM inbox WHERE customer_id = :id AND state = 'new'`,
      { id },
    ),
  ])
  return {
    promise: told(open),
    broken: told(missed),
    disputed,
    call: call
      ? { on: call.on, label: OUTCOMES[call.outcome].label, by: call.by, nextDate: call.nextDate }
      : null,
    mail: int(mail!.n),
  }
}

const readCardRow = z.object({
  currency: cell.text,
  open: cell.sum,
  baseOpen: cell.sum,
  dueDate: cell.text,
})

const readCardItemRow = z.object({
  id: cell.whole,
  number: cell.text,
  date: cell.text,
  amount: cell.whole,
  currency: cell.text,
})

const readCardPauseRow = z.object({
  id: cell.whole,
  item: cell.text.nullable(),
  reason: cell.text,
  until: cell.text,
})

const readCardCustomerRow = z.object({
  number: cell.text,
  name: cell.text,
})

const readCardRow3 = z.object({
  n: cell.sum,
})

export async function readCard(
  database: Handle,
  number: string,
  q: { asOf?: string },
  actor: Actor,
  scope: Scope,
): Promise<Card> {
  const settings = await readSettings(database)
  const customer = await findCustomer(database, number, scope)
  const asOf = q.asOf ?? settings.today
  const own = scope.salesId ? 'AND sales_id = :salesId' : ''
  const salesId = scope.salesId ?? 0
  const values = { salesId, id: customer.id, asOf, parentId: customer.parentId ?? 0, today: settings.today }
  const { standing, holds, trouble } = await standOf(database, settings, customer.id)
  const [open, [receipt], usual, [notice], pauses, notes, [parent], [members], [handedOver]] =
    await Promise.all([
      database.rows(
        readCardRow,
        `SELECT currency, open, base_open AS baseOpen, due_date AS dueDate
        FROM ${openAsOfSql({ asOf, today: settings.today, known: null })} s WHERE customer_id = :id`,
        values,
      ),
      database.rows(
        readCardItemRow,
        `
      SELECT i.id, i.number, i.document_date AS date, i.amount, i.currency FROM item i
        WHERE i.customer_id = :id AND i.kind IN (${MONEY}) AND i.posting_date <= :asOf
        AND NOT EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id)
        ORDER BY i.posting_date DESC, i.id DESC LIMIT 1`,
        values,
      ),
      usualLateness(database, customer.id),
      database.rows(
        cardRow,
        `
      SELECT MAX(ni.level) AS level, n.on_date AS date, n.number, n.id AS noticeId FROM live_notice n
        JOIN notice_item ni ON ni.notice_id = n.id JOIN open_item o ON o.item_id = ni.item_id
      WHERE n.customer_id = :id GROUP BY n.id ORDER BY n.on_date DESC, n.id DESC LIMIT 1`,
        values,
      ),
      database.rows(
        readCardPauseRow,
        `
      SELECT p.id, i.number AS item, p.reason, p.until_date AS until FROM pause p LEFT
        JOIN item i ON i.id = p.item_id
      WHERE p.customer_id = :id AND p.ended = 0 AND p.until_date >= :today ORDER BY p.until_date`,
        values,
      ),
      database.select<Card['notes'][number]>(
        `SELECT n.id, n.on_date AS date, p.name AS \`by\`, n.text, n.pinned FROM note n JOIN person p ON p.id =
        n.person_id WHERE n.customer_id = :id ORDER BY n.pinned DESC, n.id DESC LIMIT 4`,
        values,
      ),
      database.rows(
        readCardCustomerRow,
        `SELECT number, name FROM customer WHERE id = :parentId ${own}`,
        values,
      ),
      database.rows(readCardRow3, `SELECT COUNT(*) AS n FROM customer WHERE parent_id = :id ${own}`, values),
      database.find(
        'handover',
        { customer_id: values.id, ended_on: null },
        { columns: { to: 'agency', on: 'on_date' } },
      ),
    ])
  const items = open.map(r => ({
    currency: r.currency,
    open: int(r.open),
    baseOpen: int(r.baseOpen),
    date: r.dueDate,
  }))
  const aged = age(
    items.map(i => ({ open: i.baseOpen, date: i.date })),
    asOf,
    settings.buckets,
  )
  const byCurrency = [...new Set(items.map(i => i.currency))].sort().map(currency => ({
    currency,
    open: items.reduce((a, i) => a + (i.currency === currency ? i.open : 0), 0),
    onAccount: items.reduce((a, i) => a + (i.currency === currency && i.open < 0 ? i.open : 0), 0),
  }))
  const lates = items.filter(i => i.open > 0).map(i => daysLate(i.date, asOf))
  const limit = standing?.limit ?? null
  const exposure = standing?.exposure.total ?? aged.total
  const { id: _, parentId: __, creditLimit: ___, keepsOnItem: ____, ...shown } = customer
  const card = {
    ...shown,
    termsText: termsInWords(customer.terms),
    parent: parent ?? null,
    members: int(members!.n),
    base: settings.base,
    asOf,
    buckets: settings.buckets.map(b => ({ label: b.label })),
    amounts: aged.amounts,
    onAccount: aged.onAccount,
    open: aged.total,
    overdue: aged.amounts.slice(1).reduce((a, b) => a + b, 0),
    oldestDaysLate: Math.max(0, ...lates),
    byCurrency,
    limit,
    exposure,
    exposureTrouble: trouble,
    headroom: limit === null ? null : limit - exposure,
    holds,
    lastReceipt: receipt ?? null,
    usualDaysLate: usual,
    reminder: notice ?? null,
    handedOver: handedOver ?? null,
    writtenOff: await writtenOffCount(database, customer.id),
    pauses,
    notes: notes.map(n => ({ ...n, pinned: Boolean(Number(n.pinned)) })),
    ...(await chaseOf(database, settings, customer.id)),
  }
  return { ...card, next: nextActions(card, actor.role) }
}

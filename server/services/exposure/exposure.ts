import { z } from 'zod'
import { checkOrder, headroomOf, HOLD_CAUSES, togetherOf, type ExposureParts } from '../../../core/exposure'
import { toMajor } from '../../../core/money'
import { rolesThatCan } from '../../../core/people'
import type { CheckAnswer, ExposureAnswer, ExposureMakeUp } from '../../../contract/exposure'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings, type Settings } from '../../db/settings'
import { findCustomer } from '../accounts/customers'
import { notFound } from '../common/problems'
import type { Scope } from '../people/scope'
import { heldOf } from './holds'
import { inBaseToday } from '../../ledger/rates'
import { notFinalSince } from '../collections/lists'
import { NOT_FINAL_RECEIPTS } from './notFinal'
import { groupOf, standingsOf, type AccountStanding, type GroupMember } from './standing'

/** Who signs limits and releases, in words. */
const WHO_SIGNS = rolesThatCan('signOff.sign')
  .map(role => (/^[aeiou]/.test(role) ? `an ${role}` : `a ${role}`))
  .join(' or ')

interface Stand {
  settings: Settings
  customer: GroupMember
  closedOn: string | null
  account: AccountStanding
  /** The group, head first, when it is one. */
  group: AccountStanding[]
  head: { number: string; name: string } | null
  holds: CheckAnswer['holds']
}

async function standOf(database: Handle, number: string, scope: Scope): Promise<Stand> {
  const settings = await readSettings(database)
  const members = await groupOf(database, number)
  const customer = members.find(m => Number(m.own))
  if (!customer || (scope.salesId && customer.salesId !== scope.salesId)) throw notFound(`customer ${number}`)
  const ids = members.map(m => m.id)
  const standings = await standingsOf(database, settings, ids)
  const account = standings.get(customer.id)!
  const held = await heldOf(database, settings, new Map([[customer.id, account]]), [customer.id])
  const head = members[0]!
  // A group whose head is somebody else's customer is not shown to a sales contact.
  const isGroup = ids.length > 1 && (!scope.salesId || head.salesId === scope.salesId)
  return {
    settings,
    customer,
    closedOn: customer.closedOn,
    account,
    group: isGroup ? ids.map(id => standings.get(id)!).filter(Boolean) : [],
    head: isGroup ? { number: head.number, name: head.name } : null,
    holds: (held.get(customer.id)?.holds ?? []).map(h => ({
      cause: h.cause,
      label: HOLD_CAUSES[h.cause],
      words: h.words,
      toPay: h.toPay,
    })),
  }
}

/** The limit of a group is that of its head: it is for all of them together. */
const groupLimit = (group: readonly AccountStanding[]) => group[0]?.limit ?? null

const shownStanding = (parts: ExposureParts, total: number, limit: number | null) => ({
  parts,
  total,
  limit,
  ...(headroomOf(total, limit) ?? { headroom: null, used: null }),
})

const readExposureRow = z.object({
  id: cell.whole,
  cause: cell.text,
  reason: cell.text,
  date: cell.text,
  by: cell.text.nullable(),
  endedOn: cell.text.nullable(),
  endedBy: cell.text.nullable(),
  endReason: cell.text,
  releasedUntil: cell.text.nullable(),
  label: cell.text.optional(),
})

/** Exposure of an account and of its group, part by part, with the holds that last. */
export async function readExposure(database: Handle, number: string, scope: Scope): Promise<ExposureAnswer> {
  const { settings, customer, account, group, head, holds } = await standOf(database, number, scope)
  const together = togetherOf(group.map(g => g.exposure))
  const history = await database.rows(
    readExposureRow,
    `SELECT h.id, h.cause, h.reason, h.on_date AS date, p.name AS \`by\`, h.ended_on AS endedOn, e.name AS endedBy,
      h.end_reason AS endReason, h.released_until AS releasedUntil FROM hold h
      LEFT JOIN person p ON p.id = h.person_id LEFT JOIN person e ON e.id = h.ended_by
      WHERE h.customer_id = :id ORDER BY h.id DESC LIMIT 50`,
    { id: customer.id },
  )
  const { terms } = account
  return {
    number: customer.number,
    name: customer.name,
    base: settings.base,
    account: shownStanding(account.exposure.parts, account.exposure.total, account.limit),
    terms: {
      amount: terms.amount,
      currency: terms.currency,
      from: terms.from,
      until: terms.until,
      insured: terms.insured,
      insuredUntil: terms.insuredUntil,
    },
    group: head && {
      head,
      members: group.length,
      ...shownStanding(together.parts, together.total, groupLimit(group)),
    },
    holds,
    history: history.map(h => ({ ...h, label: HOLD_CAUSES[h.cause as keyof typeof HOLD_CAUSES] ?? h.cause })),
  }
}

/** Whether an order may go: yes, or no with every reason and what would make it yes. */
export async function checkExposure(
  database: Handle,
  body: { customer: string; currency: string; amount: number },
  scope: Scope,
): Promise<CheckAnswer> {
  const { settings, customer, closedOn, account, group, head, holds } = await standOf(
    database,
    body.customer,
    scope,
  )
  const { base } = settings
  const inBase = await inBaseToday(database, settings, [body.currency])
  const amount = inBase(body.amount, body.currency)
  const together = togetherOf(group.map(g => g.exposure))
  // The head's own limit is that of the group: it is not asked for twice.
  const isHead = group.length > 0 && group[0]!.customerId === customer.id
  const reasons = checkOrder(
    {
      account: {
        name: customer.name,
        exposure: account.exposure.total,
        limit: isHead ? null : account.limit,
      },
      group: head && { name: head.name, exposure: together.total, limit: groupLimit(group) },
      holds,
      closedOn,
      isLimitExpired: account.facts.isLimitExpired,
      whoSigns: WHO_SIGNS,
    },
    amount,
    value => `${toMajor(value, base)} ${base}`,
  )
  return {
    yes: reasons.length === 0,
    customer: { number: customer.number, name: customer.name },
    base,
    amount,
    exposure: account.exposure.total,
    after: account.exposure.total + amount,
    limit: account.limit,
    holds,
    reasons,
  }
}

const orderRow = z.object({
  number: cell.text,
  date: cell.day,
  currency: cell.text,
  documentAmount: cell.sum,
})

/** What a part of the exposure is made of, beside open items: orders, deliveries, cheques. */
export async function readExposureMakeUp(
  database: Handle,
  number: string,
  part: 'delivered' | 'orders' | 'notFinal',
  scope: Scope,
): Promise<ExposureMakeUp> {
  const settings = await readSettings(database)
  const customer = await findCustomer(database, number, scope)
  const orders = (amount: string, where: string) =>
    `SELECT number, date, currency, ${amount} AS documentAmount FROM sales_order
      WHERE customer_id = :id AND ${where} ORDER BY date, number`
  const sql = {
    delivered: orders('delivered - invoiced', 'delivered > invoiced'),
    orders: orders(
      'amount - GREATEST(delivered, invoiced)',
      `state = 'open' AND amount > GREATEST(delivered, invoiced)`,
    ),
    notFinal: `SELECT x.number, x.date, :base AS currency, x.amount AS documentAmount
      FROM (${NOT_FINAL_RECEIPTS}) x WHERE x.customerId = :id ORDER BY x.date, x.id`,
  }[part]
  const rows = await database.rows(orderRow, sql, {
    id: customer.id,
    base: settings.base,
    ...notFinalSince(settings.today),
  })
  const inBase = await inBaseToday(database, settings, new Set(rows.map(r => r.currency)))
  const items = rows.map(r => {
    const documentAmount = int(r.documentAmount)
    return { ...r, documentAmount, amount: inBase(documentAmount, r.currency) }
  })
  return { base: settings.base, items, total: items.reduce((sum, i) => sum + i.amount, 0) }
}

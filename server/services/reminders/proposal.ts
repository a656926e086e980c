import { z } from 'zod'
import type { IsoDate } from '../../../core/calendar'
import { ITEM_KINDS, KINDS } from '../../../core/ledger'
import { propose, type LeftOut, type Notice, type ReminderCustomer } from '../../../core/reminders'
import type { PolicyForm } from '../../../contract/reminders'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import type { Settings } from '../../db/settings'
import { openAsOfSql } from '../../ledger/asOf'
import { coveredItems, nextPart } from '../../../core/promises'
import { toMajor } from '../../../core/money'
import { disputesOfItems, type ItemDispute } from '../disputes/live'
import { openPromises } from '../promises/promises'
import { listPolicies } from './policies'

export type CustomerRow = {
  id: number
  number: string
  name: string
  email: string
  contact: string
  street: string
  postcode: string
  city: string
  country: string
  language: string
}

const reminderCustomersRow = z.object({
  id: cell.whole,
  number: cell.text,
  name: cell.text,
  email: cell.text,
  contact: cell.text,
  street: cell.text,
  postcode: cell.text,
  city: cell.text,
  country: cell.text,
  language: cell.text,
  itemId: cell.whole,
  itemNumber: cell.text,
  part: cell.whole,
  kind: z.enum(ITEM_KINDS),
  currency: cell.text,
  dueDate: cell.day,
  open: cell.sum,
  baseOpen: cell.sum,
  level: cell.sum,
  noticeDate: cell.day.nullable(),
})

/** All that the proposal needs of the customers under a policy who have something overdue. */
export async function reminderCustomers(
  database: Handle,
  settings: Settings,
  policy: string,
  asOf: IsoDate,
  only: number[] | null,
): Promise<(ReminderCustomer & CustomerRow)[]> {
  const values = { asOf, today: settings.today, policy, only: only ?? [0] }
  const rows = await database.rows(
    reminderCustomersRow,
    `
    SELECT c.id, c.number, c.name, c.email, c.contact, c.street, c.postcode, c.city, c.country, c.language,
      i.id AS itemId,
      i.number AS itemNumber, i.part, i.kind, s.currency, s.due_date AS dueDate, s.open,
      s.base_open AS baseOpen, l.level, l.noticeDate
    FROM ${openAsOfSql({ asOf, today: settings.today, known: null })} s
      JOIN customer c ON c.id = s.customer_id
      JOIN item i ON i.id = s.item_id LEFT JOIN customer_class k ON k.code = c.class
      LEFT JOIN (SELECT ni.item_id, MAX(ni.level) AS level, MAX(n.on_date) AS noticeDate FROM notice_item ni
      JOIN notice n ON n.id = ni.notice_id GROUP BY ni.item_id) l ON l.item_id = s.item_id
    WHERE COALESCE(NULLIF(c.policy, ''), NULLIF(k.policy, ''),
      'standard') = :policy ${only ? 'AND c.id IN (:only)' : ''}
      AND c.id IN (SELECT customer_id FROM open_item WHERE open > 0 AND due_date < :asOf)
    ORDER BY c.number, s.due_date, i.id`,
    values,
  )
  const pauses = await database.select<{
    customerId: number
    itemId: number | null
    reason: string
    until: string
  }>(
    `SELECT customer_id AS customerId, item_id AS itemId, reason, until_date AS until FROM pause
      WHERE ended = 0 AND until_date >= :asOf`,
    values,
  )
  const disputes = await disputesOfItems(
    database,
    rows.map(r => r.itemId),
  )
  const promised = await promisedItems(database, settings, rows)
  const customers = new Map<number, ReminderCustomer & CustomerRow>()
  for (const {
    itemId,
    itemNumber,
    part,
    kind,
    currency,
    dueDate,
    open,
    baseOpen,
    level,
    noticeDate,
    ...c
  } of rows) {
    const customer = customers.get(c.id) ?? {
      ...c,
      pause: pauses.find(p => p.customerId === c.id && p.itemId === null) ?? null,
      items: [],
    }
    customer.items.push({
      id: itemId,
      number: itemNumber,
      part,
      currency,
      dueDate,
      open: int(open),
      baseOpen: int(baseOpen),
      level: int(level),
      noticeDate,
      isFee: KINDS[kind].remindable === 'along',
      pause: pauses.find(p => p.itemId === itemId) ?? null,
      disputed: disputeOf(disputes.get(itemId)),
      promised: promised.get(itemId) ?? null,
    })
    customers.set(c.id, customer)
  }
  return [...customers.values()]
}

/** A dispute as the core wants it: why, and how much of the item it is about. */
const disputeOf = (dispute: ItemDispute | undefined) =>
  dispute ? { reason: dispute.label.toLowerCase(), amount: dispute.amount } : null

/** Items that open promises speak of, with what is promised in words. */
async function promisedItems(
  database: Handle,
  settings: Settings,
  rows: readonly { id: number; itemId: number; currency: string; open: unknown; dueDate: string }[],
): Promise<Map<number, string>> {
  const words = new Map<number, string>()
  const customers = [...new Set(rows.map(r => r.id))]
  for (const promise of await openPromises(database, settings, customers)) {
    const open = rows
      .filter(r => r.id === promise.customerId)
      .map(r => ({ itemId: r.itemId, currency: r.currency, open: int(r.open), dueDate: r.dueDate }))
    const next = nextPart(promise.stand)!
    const { currency } = promise.promised
    for (const itemId of coveredItems(promise.promised, promise.stand, open))
      words.set(itemId, `${toMajor(next.amount - next.paid, currency)} ${currency} promised for ${next.date}`)
  }
  return words
}

export interface Proposal {
  notices: Notice[]
  leftOut: LeftOut[]
}

export async function makeProposal(
  database: Handle,
  settings: Settings,
  policy: PolicyForm,
  asOf: IsoDate,
  only: number[] | null,
) {
  const customers = await reminderCustomers(database, settings, policy.code, asOf, only)
  const proposal: Proposal = { notices: [], leftOut: [] }
  for (const customer of customers) {
    const part = propose(customer, policy.levels, asOf)
    proposal.notices.push(...part.notices)
    proposal.leftOut.push(...part.leftOut)
  }
  return { customers, proposal }
}

/**
 * The accounts that a run of today would write to, by every policy: the same proposal as the run makes.
 * `amount` is what they are to be reminded of, in base currency.
 */
export async function accountsToRemind(
  database: Handle,
  settings: Settings,
): Promise<{ count: number; amount: number }> {
  const accounts = new Set<string>()
  let amount = 0
  for (const policy of (await listPolicies(database)).items) {
    const { customers, proposal } = await makeProposal(database, settings, policy, settings.today, null)
    const base = new Map(customers.flatMap(c => c.items.map(i => [i.id, i.baseOpen ?? 0] as const)))
    for (const notice of proposal.notices) {
      accounts.add(notice.customer.number)
      amount += notice.items.reduce((a, i) => a + (base.get(i.id) ?? 0), 0)
    }
  }
  return { count: accounts.size, amount }
}

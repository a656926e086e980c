import { addDays, daysLate } from '../calendar'
import type { LeftOutRule, Notice, NoticeItem, ReminderCustomer, ReminderItem } from './notice'
import { editNotice } from './edits'
import { interestOf, type Proposal, type RunTerms } from './propose'

/**
 * One customer's part of an interest run, per currency: the same computation as with a reminder, without one.
 * Levels stay as they are. Items may be paid meanwhile: interest runs through the day of payment.
 */
export function proposeInterest(customer: ReminderCustomer, terms: RunTerms): Proposal {
  const proposal: Proposal = { notices: [], leftOut: [] }
  for (const currency of [...new Set(customer.items.map(i => i.currency))].sort())
    interestOfCurrency(customer, currency, terms, proposal)
  return proposal
}

function interestOfCurrency(
  customer: ReminderCustomer,
  currency: string,
  terms: RunTerms,
  proposal: Proposal,
): void {
  const { policy, asOf } = terms
  const late = customer.items.filter(
    i => i.currency === currency && i.amount > 0 && i.open >= 0 && daysLate(i.dueDate, asOf) > 0,
  )
  if (!late.length) return
  const who = { number: customer.number, name: customer.name }
  const leave = (of: readonly ReminderItem[], item: string | null, rule: LeftOutRule, reason: string) =>
    proposal.leftOut.push({
      customer: who,
      item,
      currency,
      open: of.reduce((a, i) => a + i.open, 0),
      rule,
      reason,
    })
  const { pause, handedOver } = customer
  if (!policy.interest) return void leave(late, null, 'no-interest', 'its policy claims no interest')
  if (handedOver)
    return void leave(late, null, 'handed-over', `handed over to ${handedOver.to} on ${handedOver.on}`)
  if (pause) return void leave(late, null, 'paused', `paused until ${pause.until}: ${pause.reason}`)
  const items: ReminderItem[] = []
  for (const item of late) {
    if (item.pause)
      leave([item], item.number, 'paused', `paused until ${item.pause.until}: ${item.pause.reason}`)
    else if (item.open > 0 && item.disputed && item.disputed.amount >= item.open)
      leave([item], item.number, 'disputed', `disputed: ${item.disputed.reason}`)
    else items.push(item)
  }
  const key = `${customer.number} ${currency}`
  const edit = terms.edits[key]
  const lines = interestOf(items, customer, terms)
  if (!Array.isArray(lines))
    return void leave(items, null, 'rate', `no ${lines.missing} rate is known for ${lines.day}`)
  const charged = lines.filter(l => edit?.items?.[String(l.itemId)] === undefined)
  const byItem = new Set(lines.map(l => l.itemId))
  const interest = charged.reduce((a, l) => a + l.amount, 0)
  if (!byItem.size) return
  const own = items.filter(i => byItem.has(i.id))
  if (interest < (policy.interest.minimum[currency] ?? 0))
    return void leave(own, null, 'minimum', 'the interest is under the minimum')
  // To the edits each item is one that causes the notice; no level is kept of it.
  const shown = own.map(i => lineOf(i, daysLate(i.dueDate, asOf)))
  const notice: Notice = {
    key,
    customer: who,
    currency,
    policy: policy.code,
    level: 0,
    total: 0,
    fee: 0,
    feeTax: 0,
    interest,
    deadline: addDays(asOf, policy.levels[0]!.deadlineDays),
    channel: 'print',
    recipient: customer.email,
    why: `interest of ${own.length === 1 ? 'one item' : `${own.length} items`} to ${asOf}`,
    items: shown.map(i => ({ ...i, before: -1 })),
    interestLines: charged,
    consequence: { hold: false, tellSales: false, handOver: false },
    warnings: [],
    changed: [],
  }
  const edited = editNotice(notice, edit)
  proposal.leftOut.push(...edited.leftOut)
  if (!edited.notice) return
  proposal.notices.push({
    ...edited.notice,
    level: 0,
    items: edited.notice.items.map(i => ({ ...i, level: 0, before: 0 })),
    total: edited.notice.items.reduce((a, i) => a + i.open, 0),
    channel: edited.notice.recipient ? 'email' : 'print',
  })
}

const lineOf = (item: ReminderItem, late: number): NoticeItem => ({
  id: item.id,
  number: item.number,
  part: item.part,
  dueDate: item.dueDate,
  daysLate: late,
  open: Math.max(0, item.open - (item.disputed?.amount ?? 0)),
  level: 0,
  before: 0,
})

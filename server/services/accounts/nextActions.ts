import { can, type Role } from '../../../core/people'
import type { Card } from '../../../contract/accounts'

/** The three likeliest next actions on an account, each with why. */
export function nextActions(card: Omit<Card, 'next'>, role: Role): Card['next'] {
  const actions: Card['next'] = []
  const to = `/accounts/${encodeURIComponent(card.number)}`
  if (card.onAccount < 0 && card.open - card.onAccount > 0 && can(role, 'receipts.post')) {
    actions.push({
      label: 'Allocate the credit',
      why: 'money lies on account while items are open',
      to: `${to}?do=allocate`,
    })
  }
  // Money of somebody whose debts were written off is what comes back of them, before it is anything else.
  const comesBack = card.onAccount < 0 && card.writtenOff > 0
  if (comesBack && can(role, 'impairment.post')) {
    actions.push({
      label: 'Take it as recovered',
      why: `${card.writtenOff === 1 ? 'a debt was' : `${card.writtenOff} debts were`} written off here`,
      to: `/impairment?part=back&customer=${encodeURIComponent(card.number)}`,
    })
  }
  if (!comesBack && card.onAccount < 0 && card.open - card.onAccount === 0 && can(role, 'refunds.post')) {
    actions.push({
      label: 'Refund the credit',
      why: 'nothing is open that it could pay',
      to: `/refunds?customer=${encodeURIComponent(card.number)}`,
    })
  }
  // Whoever it was handed to speaks with the customer now: a reminder of ours would contradict them.
  if (card.handedOver && can(role, 'reminders.run')) {
    actions.push({
      label: 'Look at the handover',
      why: `${card.handedOver.to} collects it`,
      to: '/reminders/handovers',
    })
  } else if (card.overdue > 0 && can(role, 'reminders.run') && !card.pauses.some(p => p.item === null)) {
    actions.push({
      label: 'Prepare a reminder',
      why: `overdue up to ${card.oldestDaysLate} days`,
      to: `/reminders?customer=${encodeURIComponent(card.number)}`,
    })
  }
  if (card.open > 0 && can(role, 'receipts.post')) {
    actions.push({
      label: 'Enter a receipt',
      why: 'items are open',
      to: `/receipts/new?customer=${encodeURIComponent(card.number)}`,
    })
  }
  actions.push({ label: 'Open the account', why: 'all items and what cleared them', to })
  return actions.slice(0, 3)
}

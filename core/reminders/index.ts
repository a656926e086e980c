import { addDays, daysBetween, daysLate, type IsoDate } from '../calendar'

export interface Level {
  /** Days late from which the level is due. */
  days: number
  /** Days that must have passed since the notice before. */
  sincePrevious: number
  /** Least overdue amount and fixed fee, minor units by currency. */
  minimum: Record<string, number>
  fee: Record<string, number>
  deadlineDays: number
}

export interface ReminderItem {
  id: number
  number: string
  part: number
  currency: string
  dueDate: IsoDate
  /** Open amount; credits negative. */
  open: number
  /** The same in base currency, where it is needed. */
  baseOpen?: number
  /** Highest level sent, 0 none, and when. */
  level: number
  noticeDate: IsoDate | null
  /** Why and until when the item is paused. */
  pause: { reason: string; until: IsoDate } | null
  /** Why the customer disputes it, and how much of it; the rest is claimed. */
  disputed?: { reason: string; amount: number } | null
  /** What the customer promised for it and when, in words, while that is not broken. */
  promised?: string | null
  /** Reminder fees are claimed along, they never cause a notice of their own. */
  isFee: boolean
}

export interface ReminderCustomer {
  number: string
  name: string
  email: string
  pause: { reason: string; until: IsoDate } | null
  items: ReminderItem[]
}

export interface NoticeItem {
  id: number
  number: string
  part: number
  dueDate: IsoDate
  daysLate: number
  open: number
  level: number
}
export interface Notice {
  key: string
  customer: { number: string; name: string }
  currency: string
  level: number
  total: number
  fee: number
  deadline: IsoDate
  channel: 'email' | 'print'
  recipient: string
  why: string
  items: NoticeItem[]
}
export interface LeftOut {
  customer: { number: string; name: string }
  item: string | null
  currency: string
  open: number
  rule: string
  reason: string
}

const days = (n: number) => `${n} day${n === 1 ? '' : 's'}`

/**
 * One customer's part of a reminder run, per currency. Every overdue item either stands in a notice or is
 * left out with a reason. An item moves up one level at a time, to the next level of the policy once it is
 * late enough and the last notice is old enough.
 */
export function propose(
  customer: ReminderCustomer,
  levels: readonly Level[],
  asOf: IsoDate,
): { notices: Notice[]; leftOut: LeftOut[] } {
  const notices: Notice[] = []
  const leftOut: LeftOut[] = []
  const who = { number: customer.number, name: customer.name }
  for (const currency of [...new Set(customer.items.map(i => i.currency))].sort()) {
    const own = customer.items.filter(i => i.currency === currency)
    const overdue = own.filter(i => i.open > 0 && daysLate(i.dueDate, asOf) > 0)
    if (!overdue.length) continue
    const total = (items: readonly { open: number }[]) => items.reduce((a, i) => a + i.open, 0)
    const leave = (rule: string, reason: string) =>
      leftOut.push({
        customer: who,
        item: null,
        currency,
        open: total(overdue),
        rule,
        reason,
      })
    if (customer.pause) {
      leave('paused', `paused until ${customer.pause.until}: ${customer.pause.reason}`)
      continue
    }
    const credit = -total(own.filter(i => i.open < 0))
    if (credit >= total(overdue)) {
      leave('credit', 'credit on the account covers all that is overdue')
      continue
    }
    const chosen: NoticeItem[] = []
    const alongside: NoticeItem[] = []
    const held: LeftOut[] = []
    for (const item of overdue) {
      const late = daysLate(item.dueDate, asOf)
      const next = Math.min(item.level + 1, levels.length)
      const level = levels[next - 1]!
      const line = {
        id: item.id,
        number: item.number,
        part: item.part,
        dueDate: item.dueDate,
        daysLate: late,
        // What is disputed is not reminded of.
        open: item.open - (item.disputed?.amount ?? 0),
        level: next,
      }
      const hold = (rule: string, reason: string) =>
        held.push({
          customer: who,
          item: item.number,
          currency,
          open: item.open,
          rule,
          reason,
        })
      if (item.pause) hold('paused', `paused until ${item.pause.until}: ${item.pause.reason}`)
      else if (item.promised) hold('promised', item.promised)
      else if (item.disputed && item.disputed.amount >= item.open)
        hold('disputed', `disputed: ${item.disputed.reason}`)
      else if (item.isFee) alongside.push({ ...line, level: item.level })
      else if (item.level >= levels.length)
        hold('last-level', `the last level, ${levels.length}, was sent on ${item.noticeDate}`)
      else if (late < level.days)
        hold('not-yet', `${days(late)} late, level ${next} is due from ${days(level.days)}`)
      else if (item.noticeDate && daysBetween(item.noticeDate, asOf) < level.sincePrevious) {
        hold(
          'recent',
          `a notice went out on ${item.noticeDate}, the next may follow after ${days(level.sincePrevious)}`,
        )
      } else chosen.push(line)
    }
    leftOut.push(...held)
    if (!chosen.length) {
      for (const fee of alongside)
        leftOut.push({
          customer: who,
          item: fee.number,
          currency,
          open: fee.open,
          rule: 'fee-only',
          reason: 'a fee alone causes no notice',
        })
      continue
    }
    const items = [...chosen, ...alongside]
    const sum = total(items)
    const reached = Math.max(...chosen.map(i => i.level))
    const level = levels[reached - 1]!
    const minimum = level.minimum[currency] ?? 0
    if (sum < minimum) {
      leftOut.push({
        customer: who,
        item: null,
        currency,
        open: sum,
        rule: 'minimum',
        reason: `under the minimum of level ${reached}`,
      })
      continue
    }
    const oldest = chosen.reduce((a, b) => (b.daysLate > a.daysLate ? b : a))
    const deciding = chosen.filter(i => i.level === reached)[0]!
    notices.push({
      key: `${customer.number} ${currency}`,
      customer: who,
      currency,
      level: reached,
      total: sum,
      fee: level.fee[currency] ?? 0,
      deadline: addDays(asOf, level.deadlineDays),
      channel: customer.email ? 'email' : 'print',
      recipient: customer.email,
      why: [
        `level ${reached} because ${deciding.number} is ${days(deciding.daysLate)} late`,
        reached > 1 ? ` and had level ${reached - 1}` : '',
        oldest.id === deciding.id ? '' : `; the oldest is ${days(oldest.daysLate)} late`,
      ].join(''),
      items: items.sort((a, b) => b.daysLate - a.daysLate || a.id - b.id),
    })
  }
  return { notices, leftOut }
}

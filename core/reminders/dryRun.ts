import type { IsoDate } from '../calendar'
import type { ReferenceRate } from '../interest'
import type { ReminderCustomer, ReminderItem } from './notice'
import { propose } from './propose'
import type { Policy } from './policy'

/** A customer with the whole history of its items: a dry-run asks what was open on each of its days. */
export interface HistoryCustomer extends Omit<ReminderCustomer, 'items' | 'pause' | 'handedOver'> {
  items: readonly HistoryItem[]
}
export interface HistoryItem extends Omit<
  ReminderItem,
  'open' | 'level' | 'noticeDate' | 'deadline' | 'chargedThrough' | 'pause' | 'disputed' | 'promised'
> {
  /** The first day it was on the account. */
  postedOn: IsoDate
  /** Credits have a negative amount. */
  signed: number
  /** Days between which it was paused, disputed or promised: what is known of them. */
  stopped: readonly { from: IsoDate; until: IsoDate; rule: 'paused' | 'disputed' | 'promised' }[]
}

/** What a policy would have sent on a day. */
export interface DryDay {
  on: IsoDate
  notices: number
  byLevel: number[]
  overdue: number
  fee: number
  interest: number
}

/** One letter of a dry-run. Base amounts are left to who knows the rates. */
export interface DryNotice {
  on: IsoDate
  customer: { number: string; name: string }
  currency: string
  level: number
  total: number
  fee: number
  interest: number
}

interface Reached {
  level: number
  noticeDate: IsoDate
  deadline: IsoDate
  chargedThrough: IsoDate | null
}

/** What was open of an item on a day, signed. */
function openOn(item: HistoryItem, day: IsoDate): number {
  if (item.postedOn > day) return 0
  const taken = item.moves.reduce((sum, m) => (m.effective <= day ? sum + m.amount : sum), 0)
  return item.signed >= 0 ? item.signed - taken : item.signed + taken
}

/**
 * What a policy would have sent on some days, as if nothing else had been sent: levels follow from its own
 * notices, money came when it came. Pure, and by the same computation as a real run. It cannot know who would
 * have paid sooner or later for another letter.
 */
export function dryRun(
  customers: readonly HistoryCustomer[],
  policy: Policy,
  rates: readonly ReferenceRate[],
  days: readonly IsoDate[],
): DryNotice[] {
  const sent: DryNotice[] = []
  for (const customer of customers) {
    const reached = new Map<number, Reached>()
    for (const on of days) {
      const items = itemsOn(customer, on, reached)
      if (!items.some(i => i.open > 0 && i.dueDate < on)) continue
      const asOf = { ...customer, pause: null, handedOver: null, items }
      const { notices } = propose(asOf, { policy, asOf: on, rates, edits: {} })
      for (const n of notices) {
        const { customer: who, currency, level, total, fee, interest } = n
        sent.push({ on, customer: who, currency, level, total, fee, interest })
        for (const i of n.items)
          if (i.level > i.before)
            reached.set(i.id, {
              level: i.level,
              noticeDate: on,
              deadline: n.deadline,
              chargedThrough: reached.get(i.id)?.chargedThrough ?? null,
            })
        for (const line of n.interestLines) {
          const known = reached.get(line.itemId)
          if (known) reached.set(line.itemId, { ...known, chargedThrough: line.to })
        }
      }
    }
  }
  return sent
}

function itemsOn(
  customer: HistoryCustomer,
  on: IsoDate,
  reached: ReadonlyMap<number, Reached>,
): ReminderItem[] {
  const items: ReminderItem[] = []
  for (const item of customer.items) {
    const open = openOn(item, on)
    if (open === 0) continue
    const own = reached.get(item.id)
    const stop = item.stopped.find(s => s.from <= on && on <= s.until)
    items.push({
      id: item.id,
      number: item.number,
      part: item.part,
      currency: item.currency,
      dueDate: item.dueDate,
      open,
      amount: item.amount,
      // Interest of then did not know what came later.
      moves: item.moves.filter(m => m.effective <= on),
      isCharge: item.isCharge,
      level: own?.level ?? 0,
      noticeDate: own?.noticeDate ?? null,
      deadline: own?.deadline ?? null,
      chargedThrough: own?.chargedThrough ?? null,
      pause: stop?.rule === 'paused' ? { reason: 'then', until: stop.until } : null,
      promised: stop?.rule === 'promised' ? `promised until ${stop.until}` : null,
      disputed: stop?.rule === 'disputed' ? { reason: 'then', amount: open } : null,
    })
  }
  return items
}

/** Letters of a dry-run by day; a day without any is there too. */
export function byDay(
  notices: readonly DryNotice[],
  days: readonly IsoDate[],
  inBase: (amount: number, currency: string, on: IsoDate) => number,
): DryDay[] {
  const found = new Map<IsoDate, DryDay>(
    days.map(on => [on, { on, notices: 0, byLevel: [], overdue: 0, fee: 0, interest: 0 }]),
  )
  for (const n of notices) {
    const day = found.get(n.on)
    if (!day) continue
    day.notices++
    day.byLevel[n.level - 1] = (day.byLevel[n.level - 1] ?? 0) + 1
    day.overdue += inBase(n.total, n.currency, n.on)
    day.fee += inBase(n.fee, n.currency, n.on)
    day.interest += inBase(n.interest, n.currency, n.on)
  }
  for (const day of found.values()) day.byLevel = Array.from(day.byLevel, x => x ?? 0)
  return [...found.values()]
}

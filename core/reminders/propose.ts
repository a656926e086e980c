import { addDays, daysBetween, daysLate, type IsoDate } from '../calendar'
import { accrue, type InterestTerms, type ReferenceRate } from '../interest'
import { editNotice, type Edits } from './edits'
import type {
  LeftOut,
  LeftOutRule,
  Notice,
  NoticeInterest,
  NoticeItem,
  ReminderCustomer,
  ReminderItem,
} from './notice'
import { feeOf, percentOf, type Level, type Policy } from './policy'

/** What a run is made with. */
export interface RunTerms {
  policy: Policy
  asOf: IsoDate
  rates: readonly ReferenceRate[]
  /** What people changed of the proposal, by key of the notice. */
  edits: Edits
}

export interface Proposal {
  notices: Notice[]
  leftOut: LeftOut[]
}

const days = (n: number) => `${n} day${n === 1 ? '' : 's'}`
const sum = (items: readonly { open: number }[]): number => items.reduce((a, i) => a + i.open, 0)

/** An item that may be claimed, with the line that a notice would show of it. */
interface Candidate {
  item: ReminderItem
  line: NoticeItem
}

/** Why an item is not claimed. */
interface Stopped {
  rule: LeftOutRule
  reason: string
}

const stopped = (rule: LeftOutRule, reason: string): Stopped => ({ rule, reason })

/**
 * One customer's part of a reminder run, per currency. Every overdue item either stands in a notice or is
 * left out with a reason, never both. An item moves up one level at a time, to the next of the policy once it
 * is late enough and the last notice old enough.
 */
export function propose(customer: ReminderCustomer, terms: RunTerms): Proposal {
  const proposal: Proposal = { notices: [], leftOut: [] }
  for (const currency of [...new Set(customer.items.map(i => i.currency))].sort())
    proposeCurrency(
      customer,
      currency,
      customer.items.filter(i => i.currency === currency),
      terms,
      proposal,
    )
  return proposal
}

function proposeCurrency(
  customer: ReminderCustomer,
  currency: string,
  own: readonly ReminderItem[],
  terms: RunTerms,
  proposal: Proposal,
): void {
  const overdue = own.filter(i => i.open > 0 && daysLate(i.dueDate, terms.asOf) > 0)
  if (!overdue.length) return
  const who = { number: customer.number, name: customer.name }
  const leave = (item: string | null, open: number, rule: LeftOutRule, reason: string) =>
    proposal.leftOut.push({ customer: who, item, currency, open, rule, reason })
  const stop = stopOfAccount(customer, own, overdue)
  if (stop) {
    leave(null, sum(overdue), stop.rule, stop.reason)
    return
  }
  const chosen: Candidate[] = []
  const along: Candidate[] = []
  for (const item of overdue) {
    const found = candidateOf(item, currency, terms)
    if ('rule' in found) leave(item.number, item.open, found.rule, found.reason)
    else if (found.alone) chosen.push(found)
    else along.push(found)
  }
  if (!chosen.length) {
    for (const { item, line } of along)
      leave(item.number, line.open, 'fee-only', 'a fee or interest alone causes no notice')
    return
  }
  for (const part of lettersOf(chosen, along, terms.policy)) {
    const notice = noticeOf(customer, currency, part, terms)
    const edited = editNotice(notice, terms.edits[notice.key])
    proposal.leftOut.push(...edited.leftOut)
    if (edited.notice) finish(edited.notice, part, customer, terms, proposal)
  }
}

/** Why nothing of an account is reminded of. */
function stopOfAccount(
  customer: ReminderCustomer,
  own: readonly ReminderItem[],
  overdue: readonly ReminderItem[],
): { rule: LeftOutRule; reason: string } | null {
  const { handedOver, pause } = customer
  if (handedOver)
    return { rule: 'handed-over', reason: `handed over to ${handedOver.to} on ${handedOver.on}` }
  if (pause) return { rule: 'paused', reason: `paused until ${pause.until}: ${pause.reason}` }
  const credit = -sum(own.filter(i => i.open < 0))
  if (credit >= sum(overdue))
    return { rule: 'credit', reason: 'credit on the account covers all that is overdue' }
  return null
}

/** An item as it may be claimed, `alone` when it causes a notice; or why it is left out. */
function candidateOf(
  item: ReminderItem,
  currency: string,
  { policy, asOf }: RunTerms,
): (Candidate & { alone: boolean }) | Stopped {
  const { levels, graceDays } = policy
  const late = daysLate(item.dueDate, asOf)
  const next = Math.min(item.level + 1, levels.length)
  const level = levels[next - 1]!
  const line: NoticeItem = {
    id: item.id,
    number: item.number,
    part: item.part,
    dueDate: item.dueDate,
    daysLate: late,
    // What is disputed is not reminded of.
    open: item.open - (item.disputed?.amount ?? 0),
    level: next,
    before: item.level,
  }
  if (item.pause) return stopped('paused', `paused until ${item.pause.until}: ${item.pause.reason}`)
  if (item.promised) return stopped('promised', item.promised)
  if (item.elsewhere) return stopped(item.elsewhere.rule as LeftOutRule, item.elsewhere.reason)
  if (line.open <= 0) return stopped('disputed', `disputed: ${item.disputed!.reason}`)
  if (item.isCharge && !policy.chargesCause)
    return { item, line: { ...line, level: item.level }, alone: false }
  if (item.level >= levels.length)
    return stopped('last-level', `the last level, ${levels.length}, was sent on ${item.noticeDate}`)
  const needed = Math.max(level.days, graceDays + 1)
  if (late < needed)
    return stopped('not-yet', `${days(late)} late, level ${next} is due from ${days(needed)}`)
  if (item.noticeDate && daysBetween(item.noticeDate, asOf) < level.sincePrevious)
    return stopped(
      'recent',
      `a notice went out on ${item.noticeDate}, the next may follow after ${days(level.sincePrevious)}`,
    )
  const until = item.deadline && graceDays ? addDays(item.deadline, graceDays) : null
  if (until && asOf <= until)
    return stopped(
      'recent',
      `the notice of ${item.noticeDate} lets time until ${item.deadline}, with grace ${until}`,
    )
  const least = level.minimumItem[currency] ?? 0
  if (line.open < least) return stopped('minimum', `less than what level ${next} asks of an item`)
  return { item, line, alone: true }
}

interface Letter {
  /** Tells letters of one account and currency apart; empty for the only one. */
  suffix: string
  chosen: Candidate[]
  along: Candidate[]
}

/** How what is claimed is cut into letters; what is claimed along goes with the first. */
function lettersOf(chosen: readonly Candidate[], along: Candidate[], { letters }: Policy): Letter[] {
  if (letters === 'account') return [{ suffix: '', chosen: [...chosen], along }]
  const parts = new Map<string, Candidate[]>()
  for (const c of chosen) {
    const suffix = letters === 'level' ? ` ${c.line.level}` : ` #${c.item.id}`
    parts.set(suffix, [...(parts.get(suffix) ?? []), c])
  }
  const sorted = [...parts].sort(([, a], [, b]) => b[0]!.line.level - a[0]!.line.level)
  return sorted.map(([suffix, own], n) => ({ suffix, chosen: own, along: n === 0 ? along : [] }))
}

/** The notice of a letter without what costs money: edits may still change its level and items. */
function noticeOf(
  customer: ReminderCustomer,
  currency: string,
  { suffix, chosen, along }: Letter,
  { policy }: RunTerms,
): Notice {
  const reached = Math.max(...chosen.map(c => c.line.level))
  return {
    key: `${customer.number} ${currency}${suffix}`,
    customer: { number: customer.number, name: customer.name },
    currency,
    policy: policy.code,
    level: reached,
    total: 0,
    fee: 0,
    feeTax: 0,
    interest: 0,
    deadline: '',
    channel: 'print',
    recipient: customer.email,
    why: whyOf(chosen, reached),
    items: [...chosen, ...along].map(c => c.line).sort((a, b) => b.daysLate - a.daysLate || a.id - b.id),
    interestLines: [],
    consequence: policy.levels[reached - 1]!.consequence,
    warnings: [],
    changed: [],
  }
}

function whyOf(chosen: readonly Candidate[], reached: number): string {
  const lines = chosen.map(c => c.line)
  const oldest = lines.reduce((a, b) => (b.daysLate > a.daysLate ? b : a))
  const deciding = lines.filter(i => i.level === reached)[0]!
  return [
    `level ${reached} because ${deciding.number} is ${days(deciding.daysLate)} late`,
    reached > 1 ? ` and had level ${reached - 1}` : '',
    oldest.id === deciding.id ? '' : `; the oldest is ${days(oldest.daysLate)} late`,
  ].join('')
}

/** Sums, charges, deadline and channel of a notice as people left it; or why it is left out after all. */
function finish(
  notice: Notice,
  { chosen, along }: Letter,
  customer: ReminderCustomer,
  terms: RunTerms,
  proposal: Proposal,
): void {
  const { policy, asOf } = terms
  const level = policy.levels[notice.level - 1]!
  const { currency } = notice
  const total = sum(notice.items)
  const leave = (rule: LeftOutRule, reason: string) =>
    proposal.leftOut.push({ customer: notice.customer, item: null, currency, open: total, rule, reason })
  if (total < (level.minimum[currency] ?? 0))
    return void leave('minimum', `under the minimum of level ${notice.level}`)
  const edit = terms.edits[notice.key] ?? {}
  const ids = new Set(notice.items.map(i => i.id))
  const items = [...chosen, ...along].map(c => c.item).filter(i => ids.has(i.id))
  const charged =
    level.interest && policy.interest && !edit.noInterest ? interestOf(items, customer, terms) : []
  if (!Array.isArray(charged))
    return void leave('rate', `no ${charged.missing} rate is known for ${charged.day}`)
  const interest = charged.reduce((a, l) => a + l.amount, 0)
  const isClaimed = interest > 0 && interest >= (policy.interest?.minimum[currency] ?? 0)
  const net = edit.noFee ? 0 : feeOf(level, currency, total)
  if (net === undefined) notice.warnings.push(`level ${notice.level} has no fee in ${currency}`)
  const tax = percentOf(net ?? 0, policy.feeTax)
  proposal.notices.push({
    ...notice,
    consequence: level.consequence,
    total,
    fee: (net ?? 0) + tax,
    feeTax: tax,
    interest: isClaimed ? interest : 0,
    interestLines: isClaimed ? charged : [],
    deadline: addDays(asOf, level.deadlineDays),
    ...channelOf(notice, level),
  })
}

function channelOf(notice: Notice, level: Level): Pick<Notice, 'channel' | 'recipient'> {
  if (level.channel === 'print' || !notice.recipient) return { channel: 'print', recipient: '' }
  return { channel: 'email', recipient: notice.recipient }
}

/** Interest of the items of a notice by period; or which rate is missing. */
export function interestOf(
  items: readonly ReminderItem[],
  customer: Pick<ReminderCustomer, 'country'>,
  { policy, asOf, rates }: Pick<RunTerms, 'policy' | 'asOf' | 'rates'>,
): NoticeInterest[] | { missing: string; day: IsoDate } {
  const own = policy.interest
  if (!own) return []
  const terms: InterestTerms = {
    convention: own.convention,
    percent: own.percent,
    reference: own.reference,
    basis: own.basis.byCountry[customer.country] ?? own.basis.otherwise,
  }
  const lines: NoticeInterest[] = []
  for (const item of items) {
    if (item.isCharge && !policy.chargesBearInterest) continue
    const accrued = accrue({ ...item, without: item.disputed?.amount ?? 0 }, terms, rates, asOf)
    if (!accrued.ok) return { missing: accrued.missing, day: accrued.day }
    lines.push(...accrued.lines.map(line => ({ ...line, itemId: item.id, number: item.number })))
  }
  return lines
}

import { addDays } from '../../calendar'
import { spreadCredits } from '../../receipts/credits'
import { decode, isLateDiscount, type Decoded } from './decode'
import type { Directory } from './directory'
import { coveredProposals, ledgerProposals, returnProposals } from './other'
import { isSlip, numbersIn, plain, referenceKey, tailsIn, wordsOf } from './text'
import type { Covered, Match, MatchCustomer, MatchItem, MatchLine, MatchWorld, Part, Proposal } from './types'

export { Directory } from './directory'
export * from './types'
export { creditorReference, isCreditorReference, NameIndex, numbersIn, referenceKey, wordsOf } from './text'
export { decode, type Decoded } from './decode'

/** Who may have paid, and how we know. `sure` 0 to 1. */
interface Candidate {
  customer: MatchCustomer
  sure: number
  why: string
  referred: Set<number>
}

const MOST_PROPOSALS = 5
/** From here on we know who pays. */
const KNOWN_PAYER = 0.9
/** What is left of a proposal for somebody else's item that the payer's own is mistyped into. */
const SLIP = 0.4
/** Who pays a part of an invoice and names it pays most of it; a small part is asked about. */
const LIKELY_PART = 0.6
const plural = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`

/**
 * Matches bank lines against the world of one currency. Build it once, ask it for each line; what a line uses
 * is not taken away (`use` does that), so lines can be asked in any order.
 */
export class Matcher {
  private readonly directory: Directory
  private readonly itemsOf = new Map<number, MatchItem[]>()
  private readonly byKey = new Map<string, MatchItem[]>()
  private readonly learntIban = new Map<string, number[]>()
  private readonly byLearntName = new Map<string, number[]>()
  private readonly byAmount = new Map<number, MatchItem[]>()
  private covered: Covered[]

  constructor(private readonly world: MatchWorld) {
    this.directory = world.directory
    for (const item of world.items) {
      push(this.itemsOf, item.customerId, item)
      push(this.byKey, referenceKey(item.number), item)
      if (item.side === 'debit') push(this.byAmount, item.open, item)
    }
    for (const l of world.learnt) {
      if (l.iban) push(this.learntIban, plain(l.iban), l.customerId)
      else if (l.name) push(this.byLearntName, wordsOf(l.name).join(' '), l.customerId)
    }
    this.covered = [...world.covered]
  }

  /** Whose bank account it is, by master data and by what was learnt. */
  private payersWith(iban: string): { customerId: number; learnt: boolean }[] {
    return [
      ...this.directory.withIban(iban).map(customerId => ({ customerId, learnt: false })),
      ...(this.learntIban.get(plain(iban)) ?? []).map(customerId => ({ customerId, learnt: true })),
    ]
  }

  /** Takes away what an answer uses, so that the next line cannot use it again. */
  use(proposal: Proposal): void {
    const { action } = proposal
    if (action.kind === 'covered')
      this.covered = this.covered.filter(c => !action.targets.some(t => t.kind === c.kind && t.id === c.id))
    if (action.kind !== 'receipt') return
    for (const part of action.parts) {
      const list = this.itemsOf.get(part.customerId)
      if (!list) continue
      this.itemsOf.set(
        part.customerId,
        list.flatMap(i => {
          const a = part.allocations.find(x => x.itemId === i.id)
          const used =
            (a ? a.amount + a.discount + a.difference : 0) +
            part.credits
              .filter(c => c.creditItemId === i.id || c.debitItemId === i.id)
              .reduce((s, c) => s + c.amount, 0)
          return used === 0 ? [i] : used >= i.open ? [] : [{ ...i, open: i.open - used }]
        }),
      )
    }
  }

  /** Answers proposals for a line, best first. `customerId`: somebody said who paid. */
  match(line: MatchLine, customerId?: number): Match {
    const proposals =
      customerId === undefined
        ? [
            ...coveredProposals(line, this.covered, this.likelyPayers(line)),
            ...ledgerProposals(line, this.world.rules),
          ]
        : []
    if (line.amount < 0) proposals.push(...returnProposals(line, this.world.returnable))
    const best = () => Math.max(0, ...proposals.map(p => p.confidence))
    if (line.amount > 0 && best() < 0.97) proposals.push(...this.receiptProposals(line, customerId))
    const unique = new Map<string, Proposal>()
    for (const p of proposals.sort((a, b) => b.confidence - a.confidence)) {
      const key = JSON.stringify(p.action)
      if (!unique.has(key)) unique.set(key, p)
    }
    const ranked = [...unique.values()].slice(0, MOST_PROPOSALS)
    const tie =
      ranked.length > 1 && ranked[0]!.confidence > 0.2 && ranked[0]!.confidence - ranked[1]!.confidence < 0.01
    return { proposals: ranked, tie }
  }

  private likelyPayers(line: MatchLine): Set<number> {
    const alike = line.name ? this.directory.names.find(line.name).filter(n => n.likeness > 0.75) : []
    return new Set([...this.payersByIban(line), ...alike.map(n => n.customerId)])
  }

  private payersByIban(line: MatchLine): number[] {
    return line.iban ? [...new Set(this.payersWith(line.iban).map(p => p.customerId))] : []
  }

  /** Everything that points at a customer: document numbers, the bank account, the name. */
  private candidates(line: MatchLine): { list: Candidate[]; closed: string[] } {
    const text = `${line.reference} ${line.text} ${line.endToEndId}`
    const closed: string[] = []
    const closedCustomers = new Set<number>()
    const keys = numbersIn(text, k => this.byKey.has(k) || this.world.closed(k) !== undefined)
    const byCustomer = new Map<number, Set<number>>()
    for (const key of keys) {
      for (const item of this.byKey.get(key) ?? [])
        byCustomer.set(item.customerId, (byCustomer.get(item.customerId) ?? new Set()).add(item.id))
      const done = this.byKey.has(key) ? undefined : this.world.closed(key)
      if (done) {
        closed.push(`${done.number} was settled on ${done.on} by ${done.by}`)
        closedCustomers.add(done.customerId)
      }
    }
    const found = new Map<number, Candidate>()
    const add = (customerId: number, sure: number, why: string) => {
      const customer = this.directory.byId.get(customerId)
      if (!customer) return
      const before = found.get(customerId)
      const referred = byCustomer.get(customerId) ?? new Set<number>()
      found.set(
        customerId,
        before
          ? { ...before, sure: 1 - (1 - before.sure) * (1 - sure), why: `${before.why}, ${why}` }
          : { customer, sure, why, referred },
      )
    }
    const own = this.payersWith(line.iban)
    const ibanOwners = [...new Set(line.iban ? own.map(o => o.customerId) : [])]
    for (const id of ibanOwners) {
      const learnt = own.find(o => o.customerId === id)!.learnt
      add(
        id,
        ibanOwners.length === 1 ? 0.985 : 0.9 / ibanOwners.length,
        learnt
          ? `this bank account paid for ${this.directory.byId.get(id)?.name} before`
          : `the bank account is ${this.directory.byId.get(id)?.name}’s`,
      )
    }
    for (const [id, items] of byCustomer) {
      const numbers =
        this.itemsOf
          .get(id)
          ?.filter(i => items.has(i.id))
          .map(i => i.number) ?? []
      if (numbers.length)
        add(
          id,
          byCustomer.size === 1 ? 0.9 : 0.6,
          'the text names ' +
            `${numbers.slice(0, 4).join(', ')}${numbers.length > 4 ? ` and ${numbers.length - 4} more` : ''}`,
        )
    }
    for (const id of closedCustomers) add(id, 0.8, 'the text names a document that is settled')
    if (line.name) {
      for (const id of this.byLearntName.get(wordsOf(line.name).join(' ')) ?? [])
        add(id, 0.9, `“${line.name}” paid for it before`)
      const likes = this.directory.names.find(line.name)
      const top = likes[0]?.likeness ?? 0
      for (const n of likes.slice(0, 4)) {
        const rivals = likes.filter(l => l.likeness >= n.likeness - 0.05).length
        if (n.likeness >= 0.55 && n.likeness >= top - 0.2)
          add(
            n.customerId,
            (n.likeness > 0.95 ? 0.96 : n.likeness * 0.9) / rivals,
            n.likeness > 0.95
              ? `the payer is called ${line.name}`
              : `“${line.name}” is like ${this.directory.byId.get(n.customerId)!.name}`,
          )
      }
    }
    if (!found.size) {
      for (const n of this.directory.names.find(line.text, 3))
        if (n.likeness > 0.6)
          add(n.customerId, n.likeness * 0.7, `the text names ${this.directory.byId.get(n.customerId)!.name}`)
    }
    // The payer may stand for members of its group, or the head for it.
    for (const c of [...found.values()]) {
      const head =
        c.customer.parentId ?? (this.directory.membersOf(c.customer.id).length ? c.customer.id : null)
      if (head === null) continue
      for (const id of [head, ...this.directory.membersOf(head)])
        if (!found.has(id) && (byCustomer.has(id) || c.sure > 0.9))
          add(id, c.sure * 0.3, `${c.customer.name} is of the same group`)
    }
    return {
      list: [...found.values()].sort((a, b) => b.sure - a.sure || a.customer.id - b.customer.id).slice(0, 6),
      closed,
    }
  }

  private receiptProposals(line: MatchLine, customerId?: number): Proposal[] {
    const { list, closed } = this.candidates(line)
    const candidates =
      customerId === undefined
        ? list
        : [
            list.find(c => c.customer.id === customerId) ?? {
              customer: this.directory.byId.get(customerId)!,
              sure: 1,
              why: '',
              referred: new Set<number>(),
            },
          ]
            .filter(c => c.customer)
            .map(c => ({ ...c, sure: 0.995, why: c.why || `${c.customer.name} was chosen` }))
    const proposals: Proposal[] = []
    const group = this.groupProposal(line, candidates)
    if (group) proposals.push(group)
    const most = candidates[0]?.sure ?? 0
    const own = candidates.map(c => this.forCustomer(line, c, closed))
    const topMeets = own[0]?.some(p => p.meets) ?? false
    candidates.forEach((c, n) => {
      // Somebody less likely counts only as far as the amount speaks for him.
      const rival = n === 0 ? 1 : Math.max(0.15, 1 - most)
      for (const p of own[n]!) {
        const weight =
          p.exact && c.referred.size
            ? Math.max(rival, 0.9)
            : p.meets && !topMeets && most < 0.98
              ? Math.max(rival, 0.85)
              : rival
        const slip = n > 0 && p.exact && this.isTheirSlip(candidates[0]!, c) ? SLIP : 1
        const elsewhere =
          n === 0 && !p.meets && most < 0.98 && own.some((list, k) => k > 0 && list.some(q => q.meets))
            ? 0.6
            : 1
        proposals.push({ ...p, confidence: Math.min(0.999, p.confidence * weight * elsewhere * slip) })
      }
    })
    if (customerId === undefined && !proposals.some(p => p.confidence > 0.5))
      proposals.push(...this.byAmountAlone(line))
    return proposals.map(({ action, confidence, reasons }) => ({
      action,
      confidence: Math.round(confidence * 1000) / 1000,
      reasons,
    }))
  }

  /**
   * Whether what the text names on a less likely account is, by one slip of the finger, an item of the same
   * amount of the one who pays: then it is theirs that is meant.
   */
  private isTheirSlip(payer: Candidate, other: Candidate): boolean {
    if (payer.sure < KNOWN_PAYER || payer.referred.size) return false
    const named = (this.itemsOf.get(other.customer.id) ?? []).filter(i => other.referred.has(i.id))
    const own = this.itemsOf.get(payer.customer.id) ?? []
    return named.some(i =>
      own.some(o => o.open === i.open && isSlip(referenceKey(o.number), referenceKey(i.number))),
    )
  }

  private forCustomer(
    line: MatchLine,
    c: Candidate,
    closed: string[],
  ): (Proposal & { exact: boolean; meets: boolean })[] {
    const items = this.itemsOf.get(c.customer.id) ?? []
    const debits = items.filter(i => i.side === 'debit' && i.documentDate <= line.bookingDate)
    const credits = items.filter(i => i.side === 'credit')
    const referred = new Set(c.referred)
    // The end of a number is enough when we know who pays.
    if (!referred.size && c.sure > 0.8) {
      for (const tail of tailsIn(line.text)) {
        const hits = debits.filter(i => referenceKey(i.number).endsWith(tail))
        if (hits.length === 1) referred.add(hits[0]!.id)
      }
    }
    const paidOn = addDays(line.valueDate, -this.world.graceDays)
    const discountsOf = (i: MatchItem) =>
      i.open === i.amount ? i.discounts.filter(d => paidOn <= d.date).map(d => d.amount) : []
    const report = { exhaustive: false }
    const { tolerance } = this.world
    const options = { discountsOf, tolerance, asOf: line.valueDate, report }
    const answers = decode(debits, credits, line.amount, { ...options, referred })
    const names = referred.size > 0
    const made = answers.map(d => {
      const part = partOf(c.customer.id, d)
      const exactlyReferred = names && d.take.every(t => referred.has(t.item.id))
      // A number and its amount speak for each other, whoever paid.
      const who = exactlyReferred ? Math.max(c.sure, 0.985) : c.sure
      const passedOver =
        names &&
        [...referred].some(
          id =>
            !d.take.some(t => t.item.id === id) &&
            !d.credits.some(k => k.id === id) &&
            debits.some(i => i.id === id),
        )
      const what =
        ((exactlyReferred ? 0.999 : 1 - d.accident) * (d.difference ? 0.97 : 1) * (passedOver ? 0.7 : 1)) /
        answers.length
      return {
        exact: exactlyReferred,
        meets: d.accident < 0.1,
        passedOver,
        action: { kind: 'receipt' as const, parts: [part] },
        confidence: who * what,
        reasons: [
          c.why,
          told(d),
          ...(passedOver ? ['but the text names another item'] : []),
          ...(answers.length > 1 ? [`${answers.length} sets of items meet the amount equally well`] : []),
        ],
      }
    })
    if (made.length && !made.every(m => m.passedOver)) return made
    // No set meets the amount: what is named gets the money, oldest first, the rest stays on account.
    const named = debits
      .filter(i => referred.has(i.id))
      .sort((a, b) => (a.dueDate < b.dueDate ? -1 : a.dueDate > b.dueDate ? 1 : a.id - b.id))
    let rest = line.amount
    const allocations = named
      .map(i => {
        const amount = Math.min(rest, i.open)
        rest -= amount
        return { itemId: i.id, amount, discount: 0, difference: 0 }
      })
      .filter(a => a.amount > 0)
    const part: Part = { customerId: c.customer.id, allocations, credits: [], onAccount: rest }
    const single = named.length === 1
    const sum = named.reduce((a, i) => a + i.open, 0)
    const late = isLateDiscount(
      named.map(i => ({ item: i, discount: 0, value: i.open })),
      sum - line.amount,
    )
    const why = !named.length
      ? [
          closed.length
            ? `${closed.join('; ')}: it looks paid twice`
            : debits.length
              ? noSet(debits.length, report.exhaustive)
              : 'nothing is open on this account',
        ]
      : rest > 0
        ? [`more than ${named.map(i => i.number).join(', ')}: the rest stays on account`]
        : [
            `part of ${named.map(i => i.number).join(', ')}: the rest stays open`,
            ...(late ? ['what is missing is the discount, which is no longer to be had'] : []),
          ]
    const sure =
      c.sure *
      (!named.length
        ? closed.length
          ? 0.96
          : !debits.length
            ? 0.9
            : 0.6
        : single && rest === 0
          ? late
            ? 0.8
            : line.amount >= sum * LIKELY_PART
              ? 0.975
              : 0.9
          : single
            ? 0.8
            : 0.6)
    return [
      ...made,
      {
        exact: false,
        meets: false,
        action: { kind: 'receipt', parts: [part] },
        confidence: made.length ? Math.min(0.8, sure) : sure,
        reasons: [c.why, ...why],
      },
    ]
  }

  /** One payment for several members of a group: what is named on each account, together, is the amount. */
  private groupProposal(line: MatchLine, candidates: readonly Candidate[]): Proposal | undefined {
    const named = candidates.filter(c => c.referred.size)
    const head = (c: Candidate) => c.customer.parentId ?? c.customer.id
    if (named.length < 2 || new Set(named.map(head)).size > 1) return undefined
    const parts = named.map(c => {
      const items = (this.itemsOf.get(c.customer.id) ?? []).filter(
        i => c.referred.has(i.id) && i.side === 'debit',
      )
      return {
        customerId: c.customer.id,
        allocations: items.map(i => ({ itemId: i.id, amount: i.open, discount: 0, difference: 0 })),
        credits: [],
        onAccount: 0,
      }
    })
    const sum = parts.flatMap(p => p.allocations).reduce((a, x) => a + x.amount, 0)
    return sum === line.amount
      ? {
          action: { kind: 'receipt', parts },
          confidence: 0.985,
          reasons: [
            `the text names items of ${named.map(c => c.customer.name).join(' and ')}, one group, and ` +
              'they make the amount',
          ],
        }
      : undefined
  }

  private byAmountAlone(line: MatchLine): Proposal[] {
    const hits = (this.byAmount.get(line.amount) ?? []).slice(0, 4)
    return hits.map(i => ({
      action: {
        kind: 'receipt' as const,
        parts: [
          {
            customerId: i.customerId,
            allocations: [{ itemId: i.id, amount: i.open, discount: 0, difference: 0 }],
            credits: [],
            onAccount: 0,
          },
        ],
      },
      confidence: 0.4 / hits.length,
      reasons: [`${i.number} has exactly this amount; nothing else tells who paid`],
    }))
  }
}

function partOf(customerId: number, d: Decoded): Part {
  const credits = spreadCredits(
    d.credits.map(c => ({ id: c.id, amount: c.open })),
    d.take.filter(t => !t.discount).map(t => ({ id: t.item.id, amount: t.item.open })),
  )
  const left = new Map(d.take.map(t => [t.item.id, t.item.open - t.discount]))
  for (const c of credits) left.set(c.debitItemId, left.get(c.debitItemId)! - c.amount)
  let difference = d.difference
  // Rather on an item without discount; on one with, when there is no other.
  const bearsIt = (t: (typeof d.take)[number]) => !t.discount || d.take.every(x => x.discount)
  const allocations = [...d.take]
    .reverse()
    .map(t => {
      const own = difference && left.get(t.item.id)! > difference && bearsIt(t) ? difference : 0
      difference -= own
      return { itemId: t.item.id, amount: left.get(t.item.id)! - own, discount: t.discount, difference: own }
    })
    .reverse()
    .filter(a => a.amount > 0)
  return { customerId, allocations, credits, onAccount: 0 }
}

/** What was tried is said, and no more. */
const noSet = (count: number, exhaustive: boolean): string =>
  exhaustive
    ? `no set of its ${plural(count, 'open item')} makes this amount`
    : `none of the sets that were tried among its ${plural(count, 'open item')} makes this amount`

function told(d: Decoded): string {
  const discount = d.take.filter(t => t.discount).length
  const n = d.take.length
  const what =
    n > 3 && !/^all|^everything|without gaps|add up$/.test(d.how)
      ? `${plural(n, 'item')}, ${d.how}`
      : n > 1 && /^all|^everything|without gaps/.test(d.how)
        ? `${d.how} (${n})`
        : d.how
  return (
    `${what}${discount ? `, less ${discount === 1 ? 'the discount' : `${discount} discounts`}` : ''}: ` +
    `exactly this amount${d.difference ? ' but for a small difference' : ''}`
  )
}

function push<K, V>(map: Map<K, V[]>, key: K, value: V): void {
  const list = map.get(key)
  if (list) list.push(value)
  else map.set(key, [value])
}

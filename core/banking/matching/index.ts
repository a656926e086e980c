import type { Directory } from './directory'
import { scoreOf, sharesOf, straightened, type Evidence } from './model'
import { wordsOf } from './names'
import { numbersIn, plain, referenceKey, shapeOf, tokensIn } from './numbers'
import { coveredProposals, ledgerProposals, returnProposals } from './other'
import { candidatesOf, textOf, type Candidate, type Known, type Named } from './payers'
import { hypothesesFor } from './receipts'
import type { Habits, Hypothesis, Setting } from './setting'
import { groupProposal, remittedProposal, severalProposal } from './several'
import type { Action, Closed, Covered, Match, MatchItem, MatchLine, MatchWorld, Proposal } from './types'

export { Directory } from './directory'
export * from './types'
export { NameIndex, wordsOf } from './names'
export { creditorReference, isCreditorReference, numbersIn, referenceKey } from './numbers'
export { decode, type Decoded } from './decode'
export { sureEnough } from './model'

const MOST_PROPOSALS = 5
/** Two proposals are equally good when their confidences are so close. */
const CLOSE = 0.01
const WORTH_A_TIE = 0.2
/** What is less sure is not told at all. */
const WORTH_TELLING = 0.005
const NO_HABITS: Habits = { oldest: 0, other: 0, short: new Map() }

/** Every hypothesis about a line, before they are weighed, and the evidence for none of them. */
export interface Weighing {
  hypotheses: Hypothesis[]
  none: Evidence
}

/**
 * Matches bank lines against the world of one currency. Build it once, ask it for each line; what a line uses
 * is not taken away (`use` does that), so lines can be asked in any order.
 */
export class Matcher {
  private readonly directory: Directory
  private readonly itemsOf = new Map<number, MatchItem[]>()
  private readonly byKey = new Map<string, MatchItem[]>()
  private readonly byOrder = new Map<string, MatchItem[]>()
  private readonly byAmount = new Map<number, MatchItem[]>()
  private readonly shapes = new Set<string>()
  private readonly habits = new Map<number, Habits & { short: Map<number, number> }>()
  private readonly known: Known
  private covered: Covered[]

  constructor(private readonly world: MatchWorld) {
    this.directory = world.directory
    for (const item of world.items) {
      const key = referenceKey(item.number)
      push(this.itemsOf, item.customerId, item)
      push(this.byKey, key, item)
      this.shapes.add(shapeOf(key))
      if (item.order) push(this.byOrder, referenceKey(item.order), item)
      if (item.side === 'debit') push(this.byAmount, item.open, item)
    }
    const learntByIban = new Map<string, number[]>()
    const learntByName = new Map<string, number[]>()
    for (const l of world.learnt) {
      if (l.iban) push(learntByIban, plain(l.iban), l.customerId)
      else if (l.name) push(learntByName, wordsOf(l.name).join(' '), l.customerId)
    }
    for (const h of world.habits) {
      const own = this.habits.get(h.customerId) ?? { oldest: 0, other: 0, short: new Map<number, number>() }
      if (h.kind === 'short') own.short.set(h.amount, h.times)
      else own[h.kind] += h.times
      this.habits.set(h.customerId, own)
    }
    this.known = { directory: this.directory, learntByIban, learntByName }
    this.covered = [...world.covered]
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
    const { hypotheses, none } = this.weigh(line, customerId)
    const shares = sharesOf(
      hypotheses.map(h => scoreOf(h.evidence)),
      scoreOf(none),
    )
    const ranked = hypotheses.map((h, n) => ({ ...h, share: shares[n]! })).sort((a, b) => b.share - a.share)
    const [first, second] = ranked
    const most = first?.share ?? 0
    const tie = second !== undefined && most > WORTH_A_TIE && most - second.share < CLOSE
    // Equal ones stay equal; otherwise the first takes what experience gives it, the others what is left.
    const sure = tie ? most : straightened(most)
    const left = most < 1 ? (1 - sure) / (1 - most) : 1
    const proposals = ranked
      .map(({ action, reasons, share }, n): Proposal => ({
        action,
        confidence:
          Math.floor((n === 0 ? sure : tie ? share : Math.min(sure, share * left)) * 10_000) / 10_000,
        reasons: [...new Set(reasons.filter(Boolean))],
      }))
      .filter(p => p.confidence >= WORTH_TELLING)
      .slice(0, MOST_PROPOSALS)
    const asks = first !== undefined && wantsAPerson(first)
    return { proposals, tie, asks }
  }

  /** All that a line may be, with the evidence for each. */
  weigh(line: MatchLine, customerId?: number): Weighing {
    const named = this.namedIn(line)
    const found = candidatesOf(line, named, this.known)
    const candidates = customerId === undefined ? found : [this.chosen(customerId, found)]
    const hypotheses: Hypothesis[] = []
    if (customerId === undefined) {
      const payers = new Set(found.filter(c => c.known).map(c => c.customer.id))
      hypotheses.push(
        ...coveredProposals(line, this.covered, payers),
        ...ledgerProposals(line, this.world.rules),
      )
      if (line.amount < 0 || line.returnReason)
        hypotheses.push(...returnProposals(line, this.world.returnable, payers))
    }
    if (line.amount > 0)
      hypotheses.push(...this.receiptsFor(line, named, candidates, customerId === undefined))
    const stranger = !candidates.some(c => c.known)
    return {
      hypotheses: once(hypotheses),
      none: {
        none: 1,
        ...(stranger ? { noneStranger: 1 } : {}),
        ...(this.unknownIn(line).length ? { noneUnknown: 1 } : {}),
        ...(line.amount < 0 ? { noneOut: 1 } : {}),
      },
    }
  }

  private receiptsFor(
    line: MatchLine,
    named: Named,
    candidates: readonly Candidate[],
    open: boolean,
  ): Hypothesis[] {
    const setting: Setting = {
      line,
      named,
      itemsOf: id => this.itemsOf.get(id) ?? [],
      settledOf: (id, amount) => this.world.settled(id, amount),
      habitsOf: id => this.habits.get(id) ?? NO_HABITS,
      graceDays: this.world.graceDays,
      tolerance: this.world.tolerance,
      shapes: this.shapes,
      known: key => this.isKnown(key),
      explains: key =>
        this.byOrder.has(key) ||
        this.directory.withNumber(key).length > 0 ||
        referenceKey(line.endToEndId).includes(key),
    }
    const hypotheses = candidates.flatMap(c => hypothesesFor(setting, c, candidates))
    if (!open) return hypotheses
    const several = severalProposal(setting, candidates)
    if (several) hypotheses.push(several)
    const whoOf = (id: number) => candidates.find(c => c.customer.id === id)?.who ?? {}
    const remitted = remittedProposal(setting, key => this.openOf(key), whoOf)
    if (remitted) hypotheses.push(remitted)
    for (const c of candidates.slice(0, 2)) {
      const group = groupProposal(setting, c, this.directory.groupOf(c.customer.id))
      if (group) hypotheses.push(group)
    }
    return [...hypotheses, ...this.byAmountAlone(line, candidates)]
  }

  private chosen(id: number, found: readonly Candidate[]): Candidate {
    const own = found.find(c => c.customer.id === id)
    const customer = this.directory.byId.get(id)!
    return {
      customer,
      referred: own?.referred ?? new Set(),
      known: true,
      who: { ibanOwn: 1, nameSame: 1 },
      why: own?.why.length ? own.why : [`${customer.name} was chosen`],
    }
  }

  private isKnown(key: string): boolean {
    return this.byKey.has(key) || this.world.closed(key) !== undefined
  }

  private namedIn(line: MatchLine): Named {
    const text = textOf(line)
    const keys = numbersIn(text, key => this.isKnown(key))
    const tokens = tokensIn(text).filter(t => t.length >= 3 && this.byOrder.has(t))
    return {
      // A number that is used up by an earlier line is open no more.
      items: keys.flatMap(key => this.openOf(key)),
      byOrder: tokens
        .flatMap(t => this.byOrder.get(t)!.map(i => this.stillOpen(i)))
        .filter(i => i !== undefined),
      closed: [
        ...keys.filter(key => !this.byKey.has(key)).map(key => this.world.closed(key)!),
        ...keys.flatMap(key => this.usedUp(key, line)),
      ],
    }
  }

  /** What an earlier line has paid is settled for this one. */
  private usedUp(key: string, line: MatchLine): Closed[] {
    return (this.byKey.get(key) ?? [])
      .filter(i => !this.stillOpen(i))
      .map(i => ({
        customerId: i.customerId,
        number: i.number,
        amount: i.open,
        documentDate: i.documentDate,
        on: line.bookingDate,
        by: 'an earlier line',
        writtenOff: false,
      }))
  }

  /** Items of a number, as far as no earlier line has used them. */
  private openOf(key: string): MatchItem[] {
    return (this.byKey.get(key) ?? []).map(i => this.stillOpen(i)).filter(i => i !== undefined)
  }

  private stillOpen(item: MatchItem): MatchItem | undefined {
    return this.itemsOf.get(item.customerId)?.find(i => i.id === item.id)
  }

  private unknownIn(line: MatchLine): string[] {
    return tokensIn(textOf(line)).filter(t => this.shapes.has(shapeOf(t)) && !this.isKnown(t))
  }

  /** Items of exactly this amount, whoever owes them. */
  private byAmountAlone(line: MatchLine, candidates: readonly Candidate[]): Hypothesis[] {
    const known = new Set(candidates.map(c => c.customer.id))
    const hits = (this.byAmount.get(line.amount) ?? []).filter(
      i => !known.has(i.customerId) && this.stillOpen(i)?.open === line.amount,
    )
    return hits.slice(0, 4).map(i => ({
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
      evidence: { amountAlone: 1, ...(line.name ? { nameUnlike: 1 } : {}) },
      reasons: [`${i.number} has exactly this amount; nothing else tells who paid`],
    }))
  }
}

/** An action by content: two with the same key post the same. */
export function keyOf(action: Action): string {
  if (action.kind === 'covered') return `covered ${action.targets.map(t => `${t.kind} ${t.id}`).join(' ')}`
  if (action.kind === 'ledger') return `ledger ${action.account}`
  if (action.kind === 'return') return `return ${action.itemId}`
  return action.parts
    .map(p => {
      const allocations = p.allocations
        .map(a => `${a.itemId} ${a.amount} ${a.discount} ${a.difference}`)
        .sort()
      const credits = p.credits.reduce((sum, c) => sum + c.amount, 0)
      return `${p.customerId}: ${allocations.join(', ')} | ${credits} | ${p.onAccount}`
    })
    .sort()
    .join('; ')
}

/**
 * What a person decides, however sure it is what happened: the reason and the fee of a return, whether a
 * discount that was taken late is granted or claimed back.
 */
const wantsAPerson = ({ action, evidence, comesBack }: Hypothesis): boolean =>
  action.kind === 'return' || evidence.partLate === 1 || comesBack === true

/** Each action once, with the evidence that speaks most for it. */
function once(hypotheses: readonly Hypothesis[]): Hypothesis[] {
  const best = new Map<string, Hypothesis>()
  for (const h of hypotheses) {
    const key = keyOf(h.action)
    const before = best.get(key)
    if (!before || scoreOf(h.evidence) > scoreOf(before.evidence)) best.set(key, h)
  }
  return [...best.values()]
}

function push<K, V>(map: Map<K, V[]>, key: K, value: V): void {
  const list = map.get(key)
  if (list) list.push(value)
  else map.set(key, [value])
}

import type { IsoDate } from '../calendar'
import { takeOffItem } from '../documents/takeOff'
import { KINDS } from '../ledger/kinds'
import { assertBalanced, baseLeaving, dateRefusals, refuse, refused } from '../ledger/rules'
import type { Decided, LedgerState, Line, Posting, Refusal, StateItem } from '../ledger/types'
import { amountWords, share } from '../money'
import { reliefOn, reliefRuleOf, type Evidence, type ReliefPolicy } from './relief'
import type { Commission, WriteOffReason } from './reasons'

/*
 * Claims that are given up. The item stays readable for ever, closed by an item of its own kind; what it
 * costs goes to expense, or against what was set aside for it. Amounts are minor units of each item.
 */

export interface WriteOffPart {
  itemId: number
  /** The whole of what is open, when left out. */
  amount?: number
}

export interface WriteOffAsk {
  items: readonly WriteOffPart[]
  reason: WriteOffReason
  /** In words of whoever gives it up. */
  text: string
  against: 'expense' | 'allowance'
  commission: Commission
}

export interface WriteOffState {
  ledger: LedgerState
  policy: ReliefPolicy
  countries: ReadonlyMap<number, string>
  evidence: ReadonlyMap<number, Evidence>
  /** Items that belong to somebody else, with the reason in words. */
  kept: ReadonlyMap<number, string>
  /** Allowance that is left, base minor units. */
  allowance: number
}

/** What one item gives up: the share of tax that is claimed back at once, or that waits for its condition. */
export interface GivenUp {
  itemId: number
  amount: number
  base: number
  /** Tax within, in the item's currency and in base; 0 where the item has none. */
  tax: number
  taxBase: number
  relief: 'none' | 'waits' | 'claimed'
  why: string
}

const amountOf = (part: WriteOffPart, item: StateItem): number => part.amount ?? item.open

function partRefusals(state: WriteOffState, part: WriteOffPart, path: string): Refusal[] {
  const item = state.ledger.items.get(part.itemId)
  if (!item || item.side !== 'debit' || KINDS[item.kind].born)
    return [refuse('write-off.claim', path, 'this is no claim on a customer', 'choose an open invoice')]
  const kept = state.kept.get(item.id)
  if (kept) return [refuse('write-off.kept', path, `${item.number} ${kept}`, 'settle that first')]
  const amount = amountOf(part, item)
  if (amount <= 0 || item.open <= 0)
    return [refuse('write-off.open', path, `nothing of ${item.number} is open`, 'leave it out')]
  if (amount > item.open)
    return [
      refuse(
        'write-off.open',
        path,
        `${item.number} has ${amountWords(item.open, item.currency)} open, not ${amountWords(amount, item.currency)}`,
        `at most ${amountWords(item.open, item.currency)}`,
      ),
    ]
  return []
}

/** What the parts give up, with the tax that may be claimed back today. */
export function givenUpBy(state: WriteOffState, ask: WriteOffAsk): GivenUp[] {
  return ask.items.flatMap(part => {
    const item = state.ledger.items.get(part.itemId)
    if (!item) return []
    const amount = amountOf(part, item)
    const base = baseLeaving(item, amount)
    const tax = share(amount, item.tax, item.amount)
    const taxBase = share(base, tax, amount)
    const evidence = state.evidence.get(item.id)
    if (tax === 0 || !evidence)
      return [{ itemId: item.id, amount, base, tax: 0, taxBase: 0, relief: 'none' as const, why: 'no tax' }]
    const rule = reliefRuleOf(state.policy, state.countries.get(item.customerId) ?? '')
    const insolvent = evidence.insolvent || ask.reason === 'insolvency'
    const { may, why, from } = reliefOn(rule, { ...evidence, insolvent }, state.ledger.today)
    const later = rule !== null && (from !== null || rule.insolvency)
    const relief = may ? ('claimed' as const) : later ? ('waits' as const) : ('none' as const)
    return [{ itemId: item.id, amount, base, tax, taxBase, relief, why }]
  })
}

function writeOffRefusals(state: WriteOffState, ask: WriteOffAsk): Refusal[] {
  const refusals = dateRefusals(state.ledger, state.ledger.today, 'date')
  if (!ask.items.length)
    refusals.push(refuse('write-off.some', 'items', 'nothing was chosen', 'choose open items'))
  if (!ask.text.trim())
    refusals.push(refuse('write-off.text', 'text', 'this needs a word why', 'say why in a few words'))
  if (new Set(ask.items.map(i => i.itemId)).size !== ask.items.length)
    refusals.push(refuse('write-off.twice', 'items', 'an item is named twice', 'name each once'))
  ask.items.forEach((part, n) => refusals.push(...partRefusals(state, part, `items.${n}`)))
  if (refusals.length || ask.against === 'expense') return refusals
  const wanted = givenUpBy(state, ask).reduce((sum, g) => sum + netOf(g).base, 0)
  if (wanted > state.allowance)
    refusals.push(
      refuse(
        'write-off.allowance',
        'against',
        `the allowance has ${amountWords(Math.max(0, state.allowance), state.ledger.base)} left, ` +
          `this takes ${amountWords(wanted, state.ledger.base)}`,
        'write it off to expense, or run the allowance first',
      ),
    )
  return refusals
}

/** What is lost of an item: without the tax that is claimed back. */
function netOf({ amount, base, tax, taxBase, relief }: GivenUp): { amount: number; base: number } {
  return relief === 'claimed' ? { amount: amount - tax, base: base - taxBase } : { amount, base }
}

/**
 * Writes items off, one posting for each customer: receivables are credited; expense or the allowance is
 * debited, and the tax where it may be claimed back. All are posted or none.
 */
export function decideWriteOff(state: WriteOffState, ask: WriteOffAsk): Decided<GivenUp[]> {
  const refusals = writeOffRefusals(state, ask)
  if (refusals.length) return refused(refusals)
  const given = givenUpBy(state, ask)
  const byCustomer = new Map<number, GivenUp[]>()
  for (const one of given) {
    const { customerId } = state.ledger.items.get(one.itemId)!
    byCustomer.set(customerId, [...(byCustomer.get(customerId) ?? []), one])
  }
  const postings = [...byCustomer.values()].map(own => writeOffPosting(state.ledger, own, ask))
  // In the order of the postings: who keeps them finds each beside its item.
  return { ok: true, postings, facts: [...byCustomer.values()].flat() }
}

function writeOffPosting(ledger: LedgerState, given: readonly GivenUp[], ask: WriteOffAsk): Posting {
  const posting: Posting = {
    kind: 'document',
    date: ledger.today,
    text: `Written off: ${ask.text.trim()}`,
    items: [],
    allocations: [],
    lines: [],
  }
  given.forEach((one, n) => {
    const item = ledger.items.get(one.itemId)!
    const key = -1 - n
    const part = takeOffItem(ledger, item, one.amount, 'write-off', posting.text, key)
    posting.items.push(...part.items)
    posting.allocations.push(...part.allocations)
    posting.lines.push(...lossLines(ledger, item, one, ask.against, key))
  })
  assertBalanced(posting.lines)
  return posting
}

/** Debit of the loss and of the tax, credit of the receivable. */
function lossLines(
  { chart }: LedgerState,
  item: StateItem,
  given: GivenUp,
  against: WriteOffAsk['against'],
  key: number,
): Line[] {
  const line = { currency: item.currency, customerId: item.customerId, item: key, allocation: null }
  const net = netOf(given)
  const lines = [
    {
      ...line,
      account: chart[against === 'allowance' ? 'allowance' : 'write-off'],
      amount: net.amount,
      baseAmount: net.base,
    },
  ]
  if (given.relief === 'claimed')
    lines.push({ ...line, account: chart.tax, amount: given.tax, baseAmount: given.taxBase })
  lines.push({ ...line, account: chart.receivables, amount: -given.amount, baseAmount: -given.base })
  return lines.filter(l => l.amount !== 0 || l.baseAmount !== 0)
}

/** A write-off whose tax waits. */
export interface WaitingRelief {
  writeOffId: number
  number: string
  customerId: number
  currency: string
  tax: number
  taxBase: number
  /** Where the loss went. */
  against: WriteOffAsk['against']
  evidence: Evidence
  country: string
}

/** Claims the tax of write-offs whose conditions hold by now; the rest is left as it is. */
export function claimRelief(
  ledger: LedgerState,
  policy: ReliefPolicy,
  waiting: readonly WaitingRelief[],
  day: IsoDate,
): { postings: Posting[]; claimed: number[] } {
  const may = waiting.filter(w => reliefOn(reliefRuleOf(policy, w.country), w.evidence, day).may)
  const postings = may.map((w): Posting => {
    const line = { currency: w.currency, customerId: w.customerId, item: null, allocation: null }
    const from = ledger.chart[w.against === 'allowance' ? 'allowance' : 'write-off']
    const lines = [
      { ...line, account: ledger.chart.tax, amount: w.tax, baseAmount: w.taxBase },
      { ...line, account: from, amount: -w.tax, baseAmount: -w.taxBase },
    ]
    assertBalanced(lines)
    return {
      kind: 'document',
      date: day,
      text: `Tax of ${w.number} claimed back`,
      items: [],
      allocations: [],
      lines,
    }
  })
  return { postings, claimed: may.map(w => w.writeOffId) }
}

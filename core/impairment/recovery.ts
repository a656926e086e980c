import { newItem } from '../ledger/item'
import { lowestOpenFrom } from '../ledger/open'
import { assertBalanced, baseLeaving, dateRefusals, linkLines, refuse, refused } from '../ledger/rules'
import type { Decided, LedgerState, Line, Posting, Refusal, StateItem } from '../ledger/types'
import { amountWords, share } from '../money'

/*
 * Money that comes after all for what was written off. The receipt stands on the account as credit; the
 * recovery takes it off there, to income, and owes the tax that had been claimed back.
 */

/** A write-off, with what of it came back before. Minor units of its currency. */
export interface WrittenOff {
  writeOffId: number
  number: string
  customerId: number
  currency: string
  amount: number
  recovered: number
  /** Tax that was claimed back, 0 where it was not. */
  taxClaimed: number
}

export interface RecoveryAsk {
  creditItemId: number
  /** Of the credit, for each write-off. */
  parts: readonly { writeOffId: number; amount: number }[]
}

export interface RecoveryState {
  ledger: LedgerState
  writtenOff: ReadonlyMap<number, WrittenOff>
}

function recoveryRefusals(state: RecoveryState, ask: RecoveryAsk): Refusal[] {
  const { ledger, writtenOff } = state
  const credit = ledger.items.get(ask.creditItemId)
  const refusals = dateRefusals(ledger, ledger.today, 'date')
  if (!credit || credit.side !== 'credit')
    return [refuse('recovery.credit', 'creditItemId', 'this is no credit', 'choose a receipt on account')]
  if (!ask.parts.length)
    refusals.push(refuse('recovery.some', 'parts', 'nothing was chosen', 'choose what it pays'))
  if (new Set(ask.parts.map(p => p.writeOffId)).size !== ask.parts.length)
    refusals.push(refuse('recovery.twice', 'parts', 'a write-off is named twice', 'name each once'))
  ask.parts.forEach(({ writeOffId, amount }, n) => {
    const path = `parts.${n}`
    const one = writtenOff.get(writeOffId)
    if (!one || one.customerId !== credit.customerId || one.currency !== credit.currency) {
      const message = 'this was not written off on the account, in the currency of the money'
      refusals.push(refuse('recovery.known', path, message, 'choose one of the account'))
      return
    }
    const left = one.amount - one.recovered
    if (amount <= 0 || amount > left) {
      const most = amountWords(left, one.currency)
      refusals.push(
        refuse('recovery.left', path, `of ${one.number} ${most} did not come back yet`, `at most ${most}`),
      )
    }
  })
  const total = ask.parts.reduce((sum, p) => sum + p.amount, 0)
  const open = lowestOpenFrom(credit, ledger.today)
  if (total > open) {
    const has = amountWords(open, credit.currency)
    refusals.push(refuse('recovery.open', 'parts', `${credit.number} has ${has} left`, `at most ${has}`))
  }
  return refusals
}

/** The share of tax in what comes back, so that all parts of a write-off give the whole tax. */
export function taxIn(one: WrittenOff, amount: number): number {
  const before = share(one.taxClaimed, one.recovered, one.amount)
  return share(one.taxClaimed, one.recovered + amount, one.amount) - before
}

/** One posting: an item of kind `recovery` for each write-off, allocated to the credit at once. */
export function decideRecovery(state: RecoveryState, ask: RecoveryAsk): Decided {
  const refusals = recoveryRefusals(state, ask)
  if (refusals.length) return refused(refusals)
  const { ledger } = state
  const credit = ledger.items.get(ask.creditItemId)!
  const posting: Posting = {
    kind: 'document',
    date: ledger.today,
    text: `Recovered by ${credit.number}`,
    items: [],
    allocations: [],
    lines: [],
  }
  let left = credit
  ask.parts.forEach(({ writeOffId, amount }, n) => {
    const base = baseLeaving(left, amount)
    left = { ...left, open: left.open - amount, baseOpen: left.baseOpen - base }
    const part = recoveryOf(ledger, credit, state.writtenOff.get(writeOffId)!, amount, base, -1 - n)
    posting.items.push(...part.items)
    posting.allocations.push(...part.allocations)
    posting.lines.push(...part.lines)
  })
  assertBalanced(posting.lines)
  return { ok: true, postings: [posting], facts: null }
}

function recoveryOf(
  { chart, today }: LedgerState,
  credit: StateItem,
  one: WrittenOff,
  amount: number,
  base: number,
  key: number,
): Pick<Posting, 'items' | 'allocations' | 'lines'> {
  const tax = taxIn(one, amount)
  const taxBase = share(base, tax, amount)
  const item = newItem({
    id: key,
    customerId: credit.customerId,
    kind: 'recovery',
    currency: credit.currency,
    amount,
    baseAmount: base,
    tax,
    postingDate: today,
    text: `${one.number} came back`,
  })
  const allocation = {
    id: key,
    debitItemId: key,
    creditItemId: credit.id,
    amount,
    debitBase: base,
    creditBase: base,
    effective: today,
    undoesId: null,
  }
  const line = { currency: credit.currency, customerId: credit.customerId, item: key, allocation: null }
  const working = new Map([
    [credit.id, credit],
    [key, { ...item, open: amount, baseOpen: base, reversed: false, moves: [] }],
  ])
  const lines: Line[] = [
    { ...line, account: chart.receivables, amount, baseAmount: base },
    { ...line, account: chart.recovery, amount: -(amount - tax), baseAmount: -(base - taxBase) },
    ...(tax ? [{ ...line, account: chart.tax, amount: -tax, baseAmount: -taxBase }] : []),
    ...linkLines({ chart, items: working }, allocation),
  ]
  return { items: [item], allocations: [allocation], lines }
}

import type { IsoDate } from '../calendar'
import { refused } from '../ledger/rules'
import type { Decided, LedgerState } from '../ledger/types'
import { rateOf, rateRefusals } from '../rates'
import { postToLedger } from './lines'

/** A bank account before its first statement is worked. Amounts are minor units of its currency. */
export interface OpeningState {
  ledger: LedgerState
  account: string
  name: string
  currency: string
  /** What the first statement opens with, and its day. */
  opening: number
  date: IsoDate
  /** What its ledger account holds already. */
  holds: number
}

/**
 * The ledger account of a bank opens with what the first statement opens with, against opening balances; so
 * statement and ledger differ by nothing when every line is worked. Nothing is posted when it holds that
 * already.
 */
export function decideOpening(state: OpeningState): Decided<{ amount: number }> {
  const { ledger, currency, date } = state
  const amount = state.opening - state.holds
  if (amount === 0) return { ok: true, postings: [], facts: { amount } }
  const rates = rateRefusals(ledger, currency, date, 'opening')
  if (rates.length) return refused(rates)
  const movement = {
    date,
    currency,
    amount,
    account: state.account,
    text: `Opening balance of ${state.name}`,
    reference: '',
    rate: rateOf(ledger, currency, date)!,
  }
  const decision = postToLedger(ledger, movement, ledger.chart.opening)
  return decision.ok ? { ok: true, postings: [decision.posting], facts: { amount } } : decision
}

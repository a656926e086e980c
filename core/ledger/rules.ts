import { isIsoDate, type IsoDate } from '../calendar'
import { MAX_AMOUNT, share } from '../money'
import { KINDS, type ItemKind } from './kinds'
import { firstDayWithOpen, lowestOpenFrom } from './open'
import type {
  Allocation,
  Chart,
  Decided,
  Decision,
  LedgerState,
  Line,
  Posting,
  Refusal,
  StateItem,
} from './types'

export function refuse(rule: string, path: string, message: string, satisfy: string): Refusal {
  return { rule, path, message, satisfy }
}

export function dateRefusals(state: LedgerState, date: IsoDate, path: string): Refusal[] {
  if (!isIsoDate(date))
    return [refuse('date.real', path, `"${date}" is not a date`, 'write it as YYYY-MM-DD')]
  if (date > state.today)
    return [
      refuse('date.future', path, `${date} is after today, ${state.today}`, `use ${state.today} or earlier`),
    ]
  return periodRefusals(state, date, path)
}

export function periodRefusals(state: LedgerState, date: IsoDate, path: string): Refusal[] {
  if (state.closedUntil && date <= state.closedUntil) {
    return [
      refuse(
        'period.closed',
        path,
        `the books are closed up to ${state.closedUntil}`,
        `use a date after ${state.closedUntil}`,
      ),
    ]
  }
  return []
}

export function amountRefusals(amount: number, path: string): Refusal[] {
  if (!Number.isSafeInteger(amount) || amount <= 0) {
    return [
      refuse(
        'amount.positive',
        path,
        'the amount must be more than zero',
        'enter whole minor units above zero',
      ),
    ]
  }
  if (amount > MAX_AMOUNT)
    return [refuse('amount.size', path, 'the amount is too large', `at most ${MAX_AMOUNT} minor units`)]
  return []
}

/**
 * Lines must cancel out in every currency and in base; a posting that does not is a fault in the core, not a
 * refusal.
 */
export function assertBalanced(lines: readonly Line[]): void {
  const byCurrency = new Map<string, number>()
  let base = 0
  for (const line of lines) {
    byCurrency.set(line.currency, (byCurrency.get(line.currency) ?? 0) + line.amount)
    base += line.baseAmount
  }
  for (const [currency, sum] of byCurrency) {
    if (sum !== 0) throw new Error(`posting does not balance: ${sum} ${currency} left over`)
  }
  if (base !== 0) throw new Error(`posting does not balance in base currency: ${base} left over`)
}

export function decide(refusals: Refusal[], build: () => Posting): Decision {
  if (refusals.length) return { ok: false, refusals }
  const posting = build()
  assertBalanced(posting.lines)
  return { ok: true, posting }
}

/** A decision of one posting as that of a Command. */
export function decided(decision: Decision): Decided {
  return decision.ok ? { ok: true, postings: [decision.posting], facts: null } : decision
}

export const refused = (refusals: Refusal[]): { ok: false; refusals: Refusal[] } => ({ ok: false, refusals })

/** Why money cannot be posted to a ledger account by hand. */
export function accountRefusals(state: LedgerState, account: string, path: string): Refusal[] {
  const found = state.accounts.get(account)
  if (found === 'free') return []
  if (found === 'kept') {
    const message = `${account} is kept by its own register`
    return [refuse('account.kept', path, message, 'choose an income, expense or balance account')]
  }
  return [refuse('account.known', path, `there is no ledger account ${account}`, 'choose one of the chart')]
}

/**
 * Base currency share that leaves an item when so much of it is allocated: the last part takes what is left,
 * so nothing stays behind.
 */
export function baseLeaving(
  item: Pick<StateItem, 'amount' | 'baseAmount' | 'open' | 'baseOpen'>,
  amount: number,
): number {
  return item.baseOpen - share(item.baseAmount, item.open - amount, item.amount)
}

/** The exchange result of an allocation: receivables and exchange account, nothing in document currency. */
export function exchangeLines(
  chart: Chart,
  customerId: number,
  currency: string,
  allocation: Allocation,
): Line[] {
  const loss = allocation.debitBase - allocation.creditBase
  if (loss === 0) return []
  const line = { currency, amount: 0, customerId, item: null, allocation: allocation.id }
  return [
    { ...line, account: chart.exchange, baseAmount: loss },
    { ...line, account: chart.receivables, baseAmount: -loss },
  ]
}

/** The control account an item lies on: advances are a liability until applied. */
export const controlOf = (chart: Chart, kind: ItemKind): string => chart[KINDS[kind].control]

/**
 * Why so much of an item cannot be taken from a day on: it needs that much open on every day from then on.
 * Example: a receipt allocated on the 2nd and freed on the 16th cannot pay anything dated the 10th; from the
 * 16th it can.
 */
export function openRefusals(item: StateItem, day: IsoDate, amount: number, path: string): Refusal[] {
  const name = item.number || 'the receipt'
  if (amount > item.open) {
    const message = `only ${item.open} minor units of ${name} are open, ${amount} were asked for`
    return [refuse('allocation.open', path, message, `allocate at most ${item.open}`)]
  }
  const lowest = lowestOpenFrom(item, day)
  if (amount <= lowest) return []
  const message =
    `${name} was used on days after ${day}: ${lowest} of its ${item.open} minor units are open all the ` +
    'while'
  const from = firstDayWithOpen(item, day, amount)
  return [
    refuse('allocation.past', path, message, from ? `use ${from} or later` : `allocate at most ${lowest}`),
  ]
}

/**
 * The journal lines of a link: the exchange result, and for an advance its way from liability to receivables.
 */
export function linkLines(state: Pick<LedgerState, 'chart' | 'items'>, allocation: Allocation): Line[] {
  const debit = state.items.get(allocation.debitItemId) ?? state.items.get(allocation.creditItemId)!
  const lines = exchangeLines(state.chart, debit.customerId, debit.currency, allocation)
  const credit = state.items.get(allocation.creditItemId)
  if (!credit || KINDS[credit.kind].control !== 'advances') return lines
  const line = {
    currency: debit.currency,
    customerId: debit.customerId,
    item: null,
    allocation: allocation.id,
  }
  return [
    { ...line, account: state.chart.advances, amount: allocation.amount, baseAmount: allocation.creditBase },
    {
      ...line,
      account: state.chart.receivables,
      amount: -allocation.amount,
      baseAmount: -allocation.creditBase,
    },
    ...lines,
  ]
}

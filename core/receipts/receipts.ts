import type { IsoDate } from '../calendar'
import { convert, isCurrency, split } from '../money'
import { planAdjustments } from './adjustments'
import { planPairs } from './allocations'
import { planConversions } from './conversions'
import { newItem } from '../ledger/item'
import { amountRefusals, controlOf, dateRefusals, decide, linkLines, refuse } from '../ledger/rules'
import type {
  Decision,
  LedgerState,
  Line,
  Means,
  NewItem,
  Purpose,
  RestUse,
  StateItem,
} from '../ledger/types'

/** Where each means of payment rests until the bank statement shows it. */
const RESTS_IN: Record<Means, Purpose> = {
  cash: 'on-hand',
  cheque: 'on-hand',
  card: 'clearing',
  transfer: 'clearing',
  debit: 'clearing',
}

export interface ReceiptIntent {
  customerId: number
  currency: string
  date: IsoDate
  /** The day the receipt bears, when it is posted on a later one. */
  documentDate?: IsoDate
  /** Day of payment by which discount is judged, when the posting has another. */
  paidOn?: IsoDate
  text: string
  /** `account`: where the money is already, when a bank line or an earlier posting shows it. */
  means: { means: Means; amount: number; reference: string; account?: string }[]
  /**
   * With each payment, the discount taken and the small difference written off. `amount` is in the item's
   * currency; `paid` in the receipt's, when they differ.
   */
  allocations: {
    itemId: number
    amount: number
    discount?: number
    difference?: number
    paid?: number
  }[]
  /** Money before the invoice: all of it is a liability until applied. */
  advance?: boolean
  /** What the rest is kept for; on account when left out. */
  rest?: RestUse
  /** Somebody with authority grants a discount that is late. */
  lateDiscount?: boolean
  /** The rest that the user wants on account: said, never assumed. */
  onAccount: number
  rate: string
  /**
   * What it is worth in base currency, when that is settled already: money that is put right is the same
   * money.
   */
  baseAmount?: number
}

export const RECEIPT = -1

/** Posts one receipt of one customer and allocates it. What is not assigned must be named as on account. */
export function postReceipt(state: LedgerState, intent: ReceiptIntent): Decision {
  const refusals = dateRefusals(state, intent.date, 'date')
  if (!isCurrency(intent.currency))
    refusals.push(
      refuse(
        'currency.known',
        'currency',
        `${intent.currency} is not a currency`,
        'use an ISO 4217 code such as EUR',
      ),
    )
  if (!intent.means.length)
    refusals.push(
      refuse(
        'receipt.means',
        'means',
        'a receipt needs a payment means with its amount',
        'add cash, cheque, card or transfer',
      ),
    )
  intent.means.forEach((m, i) => refusals.push(...amountRefusals(m.amount, `means.${i}.amount`)))
  const amount = intent.means.reduce((a, m) => a + m.amount, 0)
  if (!refusals.length) refusals.push(...amountRefusals(amount, 'means'))
  const foreign = (a: ReceiptIntent['allocations'][number]) => {
    const item = state.items.get(a.itemId)
    return item !== undefined && item.currency !== intent.currency && a.paid !== undefined
  }
  const assigned = intent.allocations.reduce((a, x) => a + (foreign(x) ? x.paid! : x.amount), 0)
  if (intent.advance && (intent.allocations.length || intent.onAccount !== amount))
    refusals.push(
      refuse(
        'receipt.advance',
        'advance',
        'an advance is for invoices to come: nothing is allocated yet',
        'leave all of it on account, or enter a receipt',
      ),
    )
  if (intent.rest?.use === 'item' && !state.items.has(intent.rest.itemId ?? 0))
    refusals.push(
      refuse(
        'receipt.rest',
        'rest.itemId',
        'there is no such item on this account',
        'choose the item that the rest is kept for',
      ),
    )
  const kind = intent.advance ? 'advance' : 'receipt'
  const rest = amount - assigned - intent.onAccount
  if (intent.onAccount < 0)
    refusals.push(
      refuse(
        'receipt.on-account',
        'onAccount',
        'what stays on account cannot be less than zero',
        'take the excess off an item',
      ),
    )
  else if (rest > 0)
    refusals.push(
      refuse(
        'receipt.assigned',
        'allocations',
        `${rest} minor units are not yet assigned`,
        'assign them to items or leave them on account',
      ),
    )
  else if (rest < 0)
    refusals.push(
      refuse(
        'receipt.assigned',
        'allocations',
        `${-rest} minor units more are assigned than were received`,
        'assign less, or correct the amount received',
      ),
    )
  if (refusals.length) return { ok: false, refusals }

  const base = intent.baseAmount ?? convert(amount, intent.currency, state.base, intent.rate)
  const bare = newItem({
    id: RECEIPT,
    customerId: intent.customerId,
    kind,
    currency: intent.currency,
    amount,
    baseAmount: base,
    documentDate: intent.documentDate ?? intent.date,
    postingDate: intent.date,
    text: intent.text,
  })
  const receipt: StateItem = { ...bare, open: amount, baseOpen: base, reversed: false, moves: [] }
  const working = new Map([...state.items, [RECEIPT, receipt]])
  const plan = planPairs(
    working,
    intent.date,
    intent.allocations
      .filter(a => !foreign(a))
      .map(a => ({ debitItemId: a.itemId, creditItemId: RECEIPT, amount: a.amount })),
    -1,
  )
  const converted = plan.refusals.length
    ? planConversions(state, working, intent.date, RECEIPT, [], 0, 0)
    : planConversions(
        state,
        working,
        intent.date,
        RECEIPT,
        intent.allocations.filter(foreign).map(a => ({ itemId: a.itemId, amount: a.amount, paid: a.paid! })),
        RECEIPT - 1,
        -1 - plan.allocations.length,
      )
  plan.allocations.push(...converted.allocations)
  plan.refusals.push(...converted.refusals)
  const refused = [...plan.refusals]
  const adjusted = refused.length
    ? { made: [], refusals: [] }
    : planAdjustments(
        state,
        working,
        intent.allocations.map((a, i) => ({
          itemId: a.itemId,
          bornOf: RECEIPT,
          paid: a.amount,
          paidOn: intent.paidOn ?? intent.date,
          discount: a.discount ?? 0,
          difference: a.difference ?? 0,
          path: `allocations.${i}`,
          received: true,
        })),
        {
          date: intent.date,
          late: intent.lateDiscount ?? false,
          firstItem: RECEIPT - 1 - converted.items.length,
          firstAllocation: -1 - plan.allocations.length,
        },
      )
  refused.push(...adjusted.refusals)
  const adjustments = adjusted.made
  return decide(refused, () => {
    const bases = split(
      base,
      intent.means.map(m => m.amount),
    )
    const means = intent.means.map((m, i) => ({
      ...m,
      baseAmount: bases[i]!,
      account: m.account ?? state.chart[RESTS_IN[m.means]],
    }))
    const item: NewItem = { ...bare, means, ...(intent.rest ? { rest: intent.rest } : {}) }
    const line = { currency: intent.currency, customerId: intent.customerId, item: RECEIPT, allocation: null }
    const lines: Line[] = means.map((m, i) => ({
      ...line,
      account: m.account,
      amount: m.amount,
      baseAmount: bases[i]!,
    }))
    lines.push({ ...line, account: controlOf(state.chart, kind), amount: -amount, baseAmount: -base })
    const linked = { chart: state.chart, items: working }
    for (const a of plan.allocations) lines.push(...linkLines(linked, a))
    lines.push(...converted.lines)
    for (const a of adjustments) lines.push(...a.lines)
    return {
      kind: 'receipt',
      date: intent.date,
      text: intent.text || (intent.advance ? 'Advance' : 'Receipt'),
      items: [item, ...converted.items, ...adjustments.map(a => a.item)],
      allocations: [...plan.allocations, ...adjustments.map(a => a.allocation)],
      lines,
    }
  })
}

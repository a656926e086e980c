import type { IsoDate } from '../calendar'
import { convert, isCurrency, split } from '../money'
import { planAdjustments, takeBackBorn } from './adjustments'
import { planPairs, undo, undoRefusals } from './allocations'
import { planConversions } from './conversions'
import { firstDayWithOpen, lowestOpenFrom, takeOff } from '../ledger/open'
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

const RECEIPT = -1

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
  const receipt: StateItem = {
    id: RECEIPT,
    customerId: intent.customerId,
    kind,
    number: '',
    part: 1,
    currency: intent.currency,
    side: 'credit',
    amount,
    baseAmount: base,
    documentDate: intent.documentDate ?? intent.date,
    dueDate: intent.documentDate ?? intent.date,
    postingDate: intent.date,
    reversesItemId: null,
    bornOfItemId: null,
    tax: 0,
    discounts: [],
    open: amount,
    baseOpen: base,
    reversed: false,
    moves: [],
  }
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
    const item: NewItem = {
      id: RECEIPT,
      customerId: intent.customerId,
      kind,
      number: '',
      part: 1,
      currency: intent.currency,
      side: 'credit',
      amount,
      baseAmount: base,
      documentDate: intent.documentDate ?? intent.date,
      dueDate: intent.documentDate ?? intent.date,
      postingDate: intent.date,
      reversesItemId: null,
      bornOfItemId: null,
      series: kind,
      tax: 0,
      discounts: [],
      order: '',
      text: intent.text,
      means,
      ...(intent.rest ? { rest: intent.rest } : {}),
    }
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

export interface ReverseIntent {
  date: IsoDate
  itemId: number
  reason: string
  /** The journal lines that the item was posted with. */
  lines: readonly Line[]
  /** A bank fee charged on to the customer, in the item's currency, with its base amount. */
  fee?: { amount: number; baseAmount: number }
}

/** Reverses an item: its links are undone, and an opposite item closes it. The history shows both. */
export function reverse(state: LedgerState, intent: ReverseIntent): Decision {
  const item = state.items.get(intent.itemId)
  if (!item)
    return {
      ok: false,
      refusals: [refuse('reverse.known', 'itemId', 'there is no such item', 'choose one from the account')],
    }
  const refusals = dateRefusals(state, intent.date, 'date')
  if (item.bornOfItemId !== null)
    refusals.push(
      refuse(
        'reverse.born',
        'itemId',
        `${item.number} came with a receipt`,
        'take back the link of the receipt, this goes with it',
      ),
    )
  if (item.kind === 'reversal')
    refusals.push(
      refuse('reverse.reversal', 'itemId', 'a reversal cannot be reversed', 'post the item again'),
    )
  if (item.reversed)
    refusals.push(
      refuse(
        'reverse.once',
        'itemId',
        `${item.number} was reversed before`,
        'see its history on the account',
      ),
    )
  if (intent.date < item.postingDate)
    refusals.push(
      refuse(
        'reverse.date',
        'date',
        `${item.number} is dated ${item.postingDate}`,
        `use ${item.postingDate} or later`,
      ),
    )
  if (!intent.reason.trim())
    refusals.push(refuse('reverse.reason', 'reason', 'a reversal needs a reason', 'say why in a few words'))
  const live = [...state.allocations.values()].filter(
    a => !a.undone && a.undoesId === null && (a.debitItemId === item.id || a.creditItemId === item.id),
  )
  if (!refusals.length)
    refusals.push(
      ...undoRefusals(
        state,
        intent.date,
        live.map(a => a.id),
        'links',
      ),
    )
  // What was linked and unlinked on a later day was not free on the days before: the reversal must wait for
  // that day.
  const freed = live.reduce((i, a) => takeOff(i, intent.date, -a.amount, 0), item)
  if (!refusals.length && lowestOpenFrom(freed, intent.date) < item.amount) {
    const from = firstDayWithOpen(freed, intent.date, item.amount)
    const message = `${item.number} was allocated on days after ${intent.date}`
    refusals.push(refuse('allocation.past', 'date', message, `use ${from ?? state.today} or later`))
  }

  return decide(refusals, () => {
    const undone = live.map((a, i) => undo(a, intent.date, -1 - i))
    const side = item.side === 'debit' ? 'credit' : 'debit'
    const reversal: NewItem = {
      id: RECEIPT,
      customerId: item.customerId,
      kind: 'reversal',
      number: '',
      series: 'reversal',
      part: 1,
      currency: item.currency,
      side,
      amount: item.amount,
      baseAmount: item.baseAmount,
      documentDate: intent.date,
      dueDate: intent.date,
      postingDate: intent.date,
      reversesItemId: item.id,
      bornOfItemId: null,
      tax: 0,
      discounts: [],
      order: '',
      text: intent.reason.trim(),
      means: [],
    }
    const [debitItemId, creditItemId] = side === 'debit' ? [RECEIPT, item.id] : [item.id, RECEIPT]
    const closing = {
      id: -1 - undone.length,
      debitItemId,
      creditItemId,
      amount: item.amount,
      debitBase: item.baseAmount,
      creditBase: item.baseAmount,
      effective: intent.date,
      undoesId: null,
    }
    const born = takeBackBorn(state, live, intent.date, intent.reason.trim(), RECEIPT - 1, closing.id - 1)
    const charge = intent.fee?.amount
      ? chargeOn(state, item, intent.fee, intent.date, RECEIPT - 1 - born.items.length)
      : null
    return {
      kind: 'reversal',
      date: intent.date,
      text: intent.reason.trim(),
      items: [reversal, ...born.items, ...(charge ? [charge.item] : [])],
      allocations: [...undone, closing, ...born.allocations],
      lines: [
        ...intent.lines.map(l => ({
          ...l,
          amount: -l.amount,
          baseAmount: -l.baseAmount,
          item: RECEIPT,
          allocation: null,
        })),
        ...undone.flatMap(a => linkLines(state, a)),
        ...born.lines,
        ...(charge?.lines ?? []),
      ],
    }
  })
}

/** A bank fee charged on: a debit item of its own, due at once. */
function chargeOn(
  state: LedgerState,
  of: StateItem,
  fee: { amount: number; baseAmount: number },
  date: IsoDate,
  key: number,
): { item: NewItem; lines: Line[] } {
  const line = { currency: of.currency, customerId: of.customerId, item: key, allocation: null }
  return {
    item: {
      id: key,
      customerId: of.customerId,
      kind: 'charge',
      number: '',
      series: 'charge',
      part: 1,
      currency: of.currency,
      side: 'debit',
      amount: fee.amount,
      baseAmount: fee.baseAmount,
      tax: 0,
      discounts: [],
      documentDate: date,
      dueDate: date,
      postingDate: date,
      reversesItemId: null,
      bornOfItemId: null,
      order: '',
      text: `Bank fee for ${of.number}`,
      means: [],
    },
    lines: [
      { ...line, account: state.chart.receivables, amount: fee.amount, baseAmount: fee.baseAmount },
      { ...line, account: state.chart['charges-on'], amount: -fee.amount, baseAmount: -fee.baseAmount },
    ],
  }
}

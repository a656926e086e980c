import type { IsoDate } from '../calendar'
import { takeBackBorn } from './born'
import { undo, undoRefusals } from './allocations'
import { newItem } from '../ledger/item'
import { firstDayWithOpen, lowestOpenFrom, takeOff } from '../ledger/open'
import { dateRefusals, decide, linkLines, refuse } from '../ledger/rules'
import type { Decision, LedgerState, Line, NewItem, StateItem } from '../ledger/types'
import { RECEIPT } from './receipts'

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
        item.id,
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
    const reversal = newItem({
      id: RECEIPT,
      customerId: item.customerId,
      kind: 'reversal',
      currency: item.currency,
      side,
      amount: item.amount,
      baseAmount: item.baseAmount,
      postingDate: intent.date,
      reversesItemId: item.id,
      text: intent.reason.trim(),
    })
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
    item: newItem({
      id: key,
      customerId: of.customerId,
      kind: 'charge',
      currency: of.currency,
      amount: fee.amount,
      baseAmount: fee.baseAmount,
      postingDate: date,
      text: `Bank fee for ${of.number}`,
    }),
    lines: [
      { ...line, account: state.chart.receivables, amount: fee.amount, baseAmount: fee.baseAmount },
      { ...line, account: state.chart['charges-on'], amount: -fee.amount, baseAmount: -fee.baseAmount },
    ],
  }
}

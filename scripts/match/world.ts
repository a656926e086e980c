import { Directory, type Action, type MatchItem } from '../../core/banking/matching'
import { paymentLines, type Payer, type Truth } from '../../simulators/payers'
import type { TrueLine, UnrulyWorld } from '../../simulators/unruly/lines'

/**
 * The ledger as the matching would see it for the demo's invented payers, and their payments with the truth
 * of each. The weights of the matching were not fitted to these.
 */
export function matchWorldOf(payers: readonly Payer[], after: string, day: string): UnrulyWorld {
  const items: MatchItem[] = []
  const itemOf = (
    p: number,
    number: string,
    side: 'debit' | 'credit',
    over: Partial<MatchItem>,
  ): MatchItem => ({
    id: items.length + 1,
    customerId: p + 1,
    number,
    kind: side === 'debit' ? 'invoice' : 'credit-note',
    side,
    amount: 0,
    open: 0,
    documentDate: after,
    dueDate: after,
    discounts: [],
    order: '',
    ...over,
  })
  payers.forEach((p, n) => {
    for (const { number, amount, open, date, due, discounts } of p.invoices)
      items.push(itemOf(n, number, 'debit', { amount, open, documentDate: date, dueDate: due, discounts }))
    for (const k of p.credits) items.push(itemOf(n, k.number, 'credit', { amount: k.open, open: k.open }))
  })
  const byNumber = new Map(items.map(i => [i.number, i]))
  const customerIds = new Map(payers.map((p, n) => [p.number, n + 1]))
  const lines = paymentLines(payers, after, day, 'measure').map(({ line, currency, truth }): TrueLine => ({
    line: { ...line, currency, ultimate: '', remittance: [] },
    truth: actionOf(truth, byNumber, customerIds),
    answerable: truth.answerable,
    how: truth.how,
  }))
  return {
    lines,
    world: {
      directory: new Directory(
        payers.map((p, n) => ({ id: n + 1, number: p.number, name: p.name, iban: p.iban, parentId: null })),
      ),
      items,
      covered: [],
      learnt: [],
      habits: [],
      rules: [],
      returnable: [],
      closed: () => undefined,
      settled: () => [],
      graceDays: 2,
      tolerance: TOLERANCE,
    },
  }
}

/** Largest small difference of the house, minor units. */
const TOLERANCE = 500

/** What a person would post who knew the truth: cents that are missing are a small difference. */
function actionOf(
  truth: Truth,
  byNumber: ReadonlyMap<string, MatchItem>,
  customerIds: ReadonlyMap<string, number>,
): Action {
  const allocations = truth.allocations.map(a => {
    const item = byNumber.get(a.number)!
    const off = truth.credits.length ? 0 : item.open - a.amount - a.discount
    return {
      itemId: item.id,
      amount: a.amount,
      discount: a.discount,
      difference: off <= TOLERANCE && !isLate(item, off) ? off : 0,
    }
  })
  const credits = truth.credits.map(k => ({
    creditItemId: byNumber.get(k.number)!.id,
    debitItemId: 0,
    amount: k.amount,
  }))
  return {
    kind: 'receipt',
    parts: [
      { customerId: customerIds.get(truth.customer)!, allocations, credits, onAccount: truth.onAccount },
    ],
  }
}

const isLate = (item: MatchItem, off: number) => item.discounts.some(d => Math.abs(d.amount - off) <= 1)

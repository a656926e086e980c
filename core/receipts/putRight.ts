import type { IsoDate } from '../calendar'
import { refuse, refused } from '../ledger/rules'
import { afterPosting, mergePostings } from '../ledger/state'
import type { Decided, LedgerState, Line, Means, Refusal } from '../ledger/types'
import { rateOf, rateRefusals } from '../rates'
import { postReceipt } from './receipts'
import { reverse } from './reversal'

/** A payment means of the wrong receipt, and whether the bank has it already. */
export interface OldMeans {
  id: number
  means: Means
  amount: number
  reference: string
  account: string
  /** The slip on which it went to the bank. */
  slip: string | null
  settled: boolean
}

export interface PutRightState {
  ledger: LedgerState
  itemId: number
  /** Who is said to have paid; the owner of the receipt when that stays. */
  customerId: number
  text: string
  means: readonly OldMeans[]
  lines: readonly Line[]
  /** Whether somebody may grant a discount that the right date no longer earns. */
  lateDiscount: boolean
}

export interface PutRightAsk {
  reason: string
  date?: IsoDate
  /** For each payment means in turn, what it should have been. */
  means?: { amount?: number; reference?: string }[]
}

/**
 * Puts a receipt right: customer, date, reference or amount. The wrong one is reversed with all its links,
 * the right one is posted; money that stays where it is goes out and in again in one entry, so that each
 * receipt keeps lines of its own that can be reversed. Two days, two entries: each item lies on the day of
 * its entry.
 */
export function decidePutRight(state: PutRightState, ask: PutRightAsk): Decided {
  const { ledger, itemId } = state
  const old = ledger.items.get(itemId)
  if (!old || old.kind !== 'receipt')
    return refused([
      refuse(
        'correct.kind',
        'itemId',
        'this is not a receipt of this account',
        'take it back where it came from',
      ),
    ])
  const date = ask.date ?? old.documentDate
  const right = state.means.map((m, i) => ({
    means: m.means,
    account: m.account,
    amount: ask.means?.[i]?.amount ?? m.amount,
    reference: ask.means?.[i]?.reference ?? m.reference,
  }))
  const moved = state.customerId !== old.customerId
  const refusals = [
    ...confirmedRefusals(state, ask, old.documentDate, right),
    ...rateRefusals(ledger, old.currency, date, 'date'),
  ]
  const same = right.every(
    (m, i) => m.amount === state.means[i]!.amount && m.reference === state.means[i]!.reference,
  )
  if (!moved && date === old.documentDate && same)
    refusals.push(
      refuse(
        'correct.something',
        'customer',
        'customer, date, reference and amount are as they were',
        'change something',
      ),
    )
  if (refusals.length) return refused(refusals)

  const back = backOn(ledger, old.documentDate, itemId, date)
  const taken = reverse(ledger, { itemId, date: back, reason: ask.reason, lines: state.lines })
  if (!taken.ok) return taken
  const amount = right.reduce((a, m) => a + m.amount, 0)
  const allocations = moved ? [] : linksToKeep(ledger, itemId, amount)
  const assigned = allocations.reduce((a, x) => a + (x.paid ?? x.amount), 0)
  // Never earlier than the wrong one goes out of the books: the money would lie in two places on the days
  // between.
  const closed = ledger.closedUntil !== null && date <= ledger.closedUntil
  const postedOn = closed || back > old.postingDate ? back : date
  const posted = postReceipt(afterPosting(ledger, taken.posting), {
    customerId: state.customerId,
    currency: old.currency,
    date: postedOn,
    documentDate: date,
    paidOn: date,
    text: state.text,
    means: right,
    allocations,
    onAccount: amount - assigned,
    rate: rateOf(ledger, old.currency, date)!,
    // The same money of the same day is worth what it was, though the rate was changed since.
    baseAmount: amount === old.amount && date === old.documentDate ? old.baseAmount : undefined,
    // What was granted once is granted again; a late discount needs the same authority.
    lateDiscount: date === old.documentDate || state.lateDiscount,
  })
  if (!posted.ok) return refused(posted.refusals.map(r => ({ ...r, path: `receipt.${r.path}` })))
  const text = `${old.number} put right: ${ask.reason}`
  const both = [taken.posting, posted.posting]
  const postings =
    taken.posting.date === posted.posting.date
      ? [mergePostings('correction', taken.posting.date, text, both)]
      : both.map(p => ({ ...p, text }))
  return { ok: true, postings, facts: null }
}

/** What the bank has confirmed stays as it is. */
function confirmedRefusals(
  state: PutRightState,
  ask: PutRightAsk,
  oldDate: IsoDate,
  right: readonly { amount: number }[],
): Refusal[] {
  const refusals: Refusal[] = []
  const count = state.means.length
  if (ask.means && ask.means.length !== count) {
    const message = `the receipt has ${count} payment means`
    refusals.push(refuse('correct.means', 'means', message, 'say what each of them should be'))
  }
  for (const [i, was] of state.means.entries()) {
    if (right[i]!.amount === was.amount || !(was.slip || was.settled)) continue
    const message = was.slip
      ? `this ${was.means} went to the bank on slip ${was.slip}`
      : 'the bank confirmed this amount'
    const satisfy = was.slip ? 'void the slip before its amount is changed' : 'unmatch the bank line instead'
    refusals.push(refuse('correct.confirmed', `means.${i}.amount`, message, satisfy))
  }
  const onSlip = state.means.find(m => m.slip)
  const foreign = state.ledger.items.get(state.itemId)!.currency !== state.ledger.base
  if (ask.date && ask.date !== oldDate && onSlip && foreign) {
    const message = `the ${onSlip.means} went to the bank on slip ${onSlip.slip} at the rate of its day`
    const satisfy = 'void the slip before its day is changed'
    refusals.push(refuse('correct.confirmed', 'date', message, satisfy))
  }
  if (ask.date && ask.date !== oldDate && state.means.some(m => m.settled)) {
    const message = 'the bank confirmed the day of this payment'
    refusals.push(refuse('correct.confirmed', 'date', message, 'unmatch the bank line instead'))
  }
  return refusals
}

/**
 * The day the wrong receipt goes back: its own or that of its youngest link, the right one's when that is
 * later, today when the period is closed.
 */
function backOn(ledger: LedgerState, old: IsoDate, itemId: number, date: IsoDate): IsoDate {
  const links = [...ledger.allocations.values()].filter(a => a.creditItemId === itemId)
  const day = [old, date, ...links.map(a => a.effective)].reduce((a, b) => (b > a ? b : a))
  return ledger.closedUntil && day <= ledger.closedUntil ? ledger.today : day
}

/**
 * The links of a receipt as allocations again, with what was born with them; a smaller amount keeps the
 * oldest.
 */
function linksToKeep(ledger: LedgerState, itemId: number, amount: number) {
  let left = amount
  const live = [...ledger.allocations.values()].filter(a => !a.undone && a.undoesId === null)
  const own = live.filter(a => a.creditItemId === itemId).sort((a, b) => a.id - b.id)
  return own.flatMap(link => {
    const conversion =
      ledger.items.get(link.debitItemId)?.kind === 'conversion'
        ? live.find(a => ledger.items.get(a.creditItemId)?.bornOfItemId === link.debitItemId)
        : undefined
    const target = conversion?.debitItemId ?? link.debitItemId
    const bornOn = (kind: string) =>
      live
        .filter(a => {
          const c = ledger.items.get(a.creditItemId)
          return c?.kind === kind && c.bornOfItemId === itemId && a.debitItemId === target
        })
        .reduce((s, a) => s + a.amount, 0)
    if (link.amount > left) {
      const part = left
      left = 0
      return part > 0 && !conversion ? [{ itemId: target, amount: part, discount: 0, difference: 0 }] : []
    }
    left -= link.amount
    return [
      {
        itemId: target,
        amount: conversion?.amount ?? link.amount,
        discount: bornOn('discount'),
        difference: bornOn('difference'),
        ...(conversion ? { paid: link.amount } : {}),
      },
    ]
  })
}

import { spreadCredits } from '../../receipts/credits'
import { together, type Evidence } from './model'
import { referenceKey } from './numbers'
import type { Candidate } from './payers'
import { earnedMost, partOf, plural, type Hypothesis, type Setting } from './setting'
import type { MatchItem, Part } from './types'

/*
 * Payments whose parts are told apart by more than one customer's items: an office, a head of a group, the
 * payer's own list.
 */

/** One payment for several customers: what is named on each account, together, is the amount. */
export function severalProposal(s: Setting, candidates: readonly Candidate[]): Hypothesis | undefined {
  const { line } = s
  const owners = [...new Set([...s.named.items, ...s.named.byOrder].map(i => i.customerId))]
  if (owners.length < 2) return undefined
  const take = (earned: boolean) =>
    owners.map(customerId => {
      const all = s.itemsOf(customerId).filter(i => isNamed(s, i) && i.documentDate <= line.bookingDate)
      const debits = all.filter(i => i.side === 'debit')
      const credits = all.filter(i => i.side === 'credit')
      return partOf(customerId, {
        kind: 'named',
        take: debits.map(item => ({
          item,
          discount: earned ? earnedMost(item, s) : 0,
        })),
        credits,
        difference: 0,
        how: '',
        accident: 0,
      })
    })
  const sum = (parts: Part[]) => parts.flatMap(p => p.allocations).reduce((a, x) => a + x.amount, 0)
  const parts = [take(false), take(true)].find(p => sum(p) === line.amount)
  if (!parts || parts.some(p => !p.allocations.length)) return undefined
  const heads = new Set(
    owners.map(id => candidates.find(c => c.customer.id === id)?.customer).map(c => c?.parentId ?? c?.id),
  )
  const oneGroup = heads.size === 1
  const count = parts.flatMap(p => p.allocations).length
  return {
    action: { kind: 'receipt', parts },
    evidence: {
      several: 1,
      ...(oneGroup ? { severalGroup: 1 } : {}),
      exactNamed: 1,
      namedShare: 1,
      namedMore: Math.log(count),
      unlikely: 3,
    },
    reasons: [
      `the text names items of ${plural(owners.length, 'customer')}${oneGroup ? ', one group' : ''}, and ` +
        'they make the amount',
    ],
  }
}

const isNamed = (s: Setting, item: MatchItem): boolean =>
  [...s.named.items, ...s.named.byOrder].some(i => i.id === item.id)

/** The head of a group pays all that is due of the whole group. */
export function groupProposal(s: Setting, c: Candidate, members: readonly number[]): Hypothesis | undefined {
  if (members.length < 2) return undefined
  const due = (only: boolean) =>
    members.map(id => ({
      customerId: id,
      items: s
        .itemsOf(id)
        .filter(
          i =>
            i.side === 'debit' &&
            i.documentDate <= s.line.bookingDate &&
            (!only || i.dueDate <= s.line.valueDate),
        ),
    }))
  for (const only of [true, false]) {
    const sets = due(only).filter(x => x.items.length)
    const sum = sets.flatMap(x => x.items).reduce((a, i) => a + i.open, 0)
    if (sets.length < 2 || sum !== s.line.amount) continue
    return {
      action: {
        kind: 'receipt',
        parts: sets.map(x => ({
          customerId: x.customerId,
          allocations: x.items.map(i => ({ itemId: i.id, amount: i.open, discount: 0, difference: 0 })),
          credits: [],
          onAccount: 0,
        })),
      },
      evidence: together(c.who, { several: 1, severalGroup: 1, kindWhole: 1, unlikely: 4, oldest: 1 }),
      reasons: [...c.why, `all that is ${only ? 'due' : 'open'} in the group: exactly this amount`],
    }
  }
  return undefined
}

/** The payer's own list of documents and amounts, where it adds up. */
export function remittedProposal(
  s: Setting,
  itemOf: (key: string) => readonly MatchItem[],
  whoOf: (customerId: number) => Evidence,
): Hypothesis | undefined {
  const { line } = s
  if (!line.remittance.length) return undefined
  const parts = new Map<number, Part & { kept: MatchItem[] }>()
  let total = 0
  for (const r of line.remittance) {
    const [item] = itemOf(referenceKey(r.number)).filter(
      i => (i.side === 'credit') === r.credit && i.documentDate <= line.bookingDate,
    )
    if (!item) return undefined
    const part = parts.get(item.customerId) ?? {
      customerId: item.customerId,
      allocations: [],
      credits: [],
      onAccount: 0,
      kept: [],
    }
    parts.set(item.customerId, part)
    total += r.credit ? -r.paid : r.paid
    if (r.credit) {
      part.kept.push({ ...item, open: Math.min(item.open, r.paid) })
      continue
    }
    // A discount that is no longer earned is not given by the payer's word.
    const discount = r.discount <= earnedMost(item, s) ? r.discount : 0
    const amount = Math.min(r.paid, item.open - discount)
    part.allocations.push({ itemId: item.id, amount, discount, difference: 0 })
    part.onAccount += r.paid - amount
  }
  if (total !== line.amount) return undefined
  const settled = [...parts.values()].map(({ kept, ...part }): Part => {
    const credits = spreadCredits(
      kept.map(k => ({ id: k.id, amount: k.open })),
      part.allocations.filter(a => !a.discount).map(a => ({ id: a.itemId, amount: a.amount })),
    )
    return {
      ...part,
      credits,
      allocations: part.allocations
        .map(a => ({
          ...a,
          amount:
            a.amount - credits.filter(k => k.debitItemId === a.itemId).reduce((x, k) => x + k.amount, 0),
        }))
        .filter(a => a.amount > 0),
    }
  })
  // A credit that finds no room, or a document named twice, leaves a sum that is not the line's.
  const money = settled.reduce((a, p) => a + p.onAccount + p.allocations.reduce((b, x) => b + x.amount, 0), 0)
  if (money !== line.amount) return undefined
  return {
    action: { kind: 'receipt', parts: settled },
    evidence: together(settled.length === 1 ? whoOf(settled[0]!.customerId) : { several: 1 }, {
      remitted: 1,
      exactNamed: 1,
      namedShare: 1,
      namedMore: Math.log(line.remittance.length),
    }),
    reasons: [`the payer lists ${plural(line.remittance.length, 'document')} with amounts, and they add up`],
  }
}

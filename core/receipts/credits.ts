/** So much of a credit item against so much of a debit item, minor units of one currency. */
export interface CreditPair {
  creditItemId: number
  debitItemId: number
  amount: number
}

interface Sized {
  id: number
  amount: number
}

/**
 * Spreads credits over the items they go against: each credit, in the order given, to the item that has most
 * room left, the smaller id first among equals, until it is used or no room is left. `room`: what each item
 * can take; one that earns a discount or is written off takes none, or the credit would change what is
 * earned. What does not fit is left out: compare the sums. The rule is ours, the same for a bank line, a tick
 * sheet and a proposal.
 *
 * Example: credits of 30 and 50 against items with room for 60 and 40 make 30 on the first (30 left), then 40
 * on the second and 10 on the first.
 */
export function spreadCredits(credits: readonly Sized[], room: readonly Sized[]): CreditPair[] {
  const left = new Map(room.map(r => [r.id, r.amount]))
  return credits.flatMap(credit => {
    let rest = credit.amount
    const byRoom = [...left].sort(([a, x], [b, y]) => y - x || a - b)
    return byRoom.flatMap(([debitItemId, most]) => {
      const amount = Math.min(rest, most)
      if (amount <= 0) return []
      rest -= amount
      left.set(debitItemId, most - amount)
      return [{ creditItemId: credit.id, debitItemId, amount }]
    })
  })
}

import type { Chart, Line } from '../ledger/types'

/** Payment means of a receipt that were taken to the bank on a slip. Minor units. */
export interface Banked {
  amount: number
  baseAmount: number
}

/**
 * The lines to mirror when a receipt is reversed: what was taken to the bank, or was seen there, comes back
 * through clearing, where the bank's own line meets it; the rest comes back from where it lies.
 */
export function linesWhereMoneyIs(
  chart: Chart,
  bankAccounts: ReadonlySet<string>,
  banked: readonly Banked[],
  lines: readonly Line[],
): Line[] {
  const left = [...banked]
  return lines.map(l => {
    if (bankAccounts.has(l.account)) return { ...l, account: chart.clearing }
    const at =
      l.account === chart['on-hand']
        ? left.findIndex(b => b.amount === l.amount && b.baseAmount === l.baseAmount)
        : -1
    if (at < 0) return l
    left.splice(at, 1)
    return { ...l, account: chart.clearing }
  })
}

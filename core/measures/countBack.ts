/** Sales of a month, or of the part of one that has passed. */
export interface MonthOfSales {
  sales: number
  days: number
}

/**
 * Days sales outstanding by count-back: whole months of sales are taken off the balance from the newest; what
 * is left of it is a share of the days of the next. Null when the months do not reach as far as the balance.
 * Source: Credit Research Foundation, from memory.
 *
 * 80 open, 50 sold in 31 days of March and 60 in 28 of February: 31 + 28 × 30 / 60 = 45 days.
 *
 * @param months the newest first
 */
export function countBack(balance: number, months: readonly MonthOfSales[]): number | null {
  if (balance <= 0) return 0
  let left = balance
  let days = 0
  for (const month of months) {
    // A month of more credit notes than invoices takes nothing off.
    const sales = Math.max(0, month.sales)
    if (sales >= left) return days + (month.days * left) / sales
    left -= sales
    days += month.days
  }
  return null
}

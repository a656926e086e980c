import { addDays, type IsoDate } from '../../core/calendar'
import { RATE_DAYS, rateKey } from '../../core/rates'
import type { Handle } from '../db/handle'

/** A rate as it is stored: without trailing zeros of the column's scale. */
export const plainRate = (rate: string): string => (rate.includes('.') ? rate.replace(/\.?0+$/, '') : rate)

/**
 * The rates in force on dates: of each currency the last one on or before the date, at most `RATE_DAYS` old.
 */
export async function loadRates(
  database: Handle,
  base: string,
  wanted: readonly { currency: string; date: IsoDate }[],
): Promise<Map<string, string>> {
  const rates = new Map<string, string>()
  const byCurrency = new Map<string, Set<IsoDate>>()
  for (const { currency, date } of wanted) {
    if (currency === base) continue
    byCurrency.set(currency, (byCurrency.get(currency) ?? new Set<IsoDate>()).add(date))
  }
  for (const [currency, dates] of byCurrency) {
    const days = [...dates].sort()
    const rows = await database.select<{ date: IsoDate; rate: string }>(
      'SELECT date, rate FROM rate WHERE currency = :currency AND date BETWEEN :from AND :to ORDER BY date',
      { currency, from: addDays(days[0]!, -RATE_DAYS), to: days.at(-1) },
    )
    let at = 0
    for (const day of days) {
      while (at < rows.length && rows[at]!.date <= day) at++
      const row = rows[at - 1]
      if (row && row.date >= addDays(day, -RATE_DAYS)) rates.set(rateKey(currency, day), plainRate(row.rate))
    }
  }
  return rates
}

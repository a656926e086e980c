import { Op } from '../db/where'
import { addDays, type IsoDate } from '../../core/calendar'
import { convert } from '../../core/money'
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
    const rows = await database.find(
      'rate',
      { currency, date: { [Op.between]: [addDays(days[0]!, -RATE_DAYS), days.at(-1)!] } },
      { columns: ['date', 'rate'], order: ['date'] },
    )
    let at = 0
    for (const day of days) {
      while (at < rows.length && rows[at]!.date <= day) at++
      const row = rows[at - 1]
      if (row && row.date >= addDays(day, -RATE_DAYS))
        rates.set(rateKey(currency, day), plainRate(String(row.rate)))
    }
  }
  return rates
}

/** An amount cannot be told in base currency. */
export class NoRate extends Error {
  constructor(
    readonly currency: string,
    date: IsoDate,
  ) {
    super(`there is no exchange rate of ${currency} for ${date}, nor for the ${RATE_DAYS} days before`)
  }
}

/** Converts amounts of these currencies into base currency at the rates of today. Throws NoRate. */
export async function inBaseToday(
  db: Handle,
  { base, today }: { base: string; today: IsoDate },
  currencies: Iterable<string>,
): Promise<(amount: number, currency: string) => number> {
  const wanted = [...new Set(currencies)].map(currency => ({ currency, date: today }))
  const rates = await loadRates(db, base, wanted)
  return (amount, currency) => {
    if (currency === base || amount === 0) return amount
    const rate = rates.get(rateKey(currency, today))
    if (rate === undefined) throw new NoRate(currency, today)
    return convert(amount, currency, base, rate)
  }
}

import type { Sequelize, Transaction } from 'sequelize'
import type { IsoDate } from '../../../core/calendar'
import { simulatedRates, type RateSource } from '../../../simulators/rates'
import { select } from '../../db/connection'

/**
 * The rate in force on a date: as stored, else asked of the source and stored. Undefined when nobody quotes
 * it.
 */
export async function rateOn(
  database: Sequelize,
  base: string,
  currency: string,
  date: IsoDate,
  tx?: Transaction,
  source: RateSource = simulatedRates,
): Promise<string | undefined> {
  if (currency === base) return '1'
  const [row] = await select<{ rate: string }>(
    database,
    'SELECT rate FROM rate WHERE currency = :currency AND date = :date',
    { currency, date },
    tx,
  )
  if (row) return row.rate
  const rate = source.rate(base, currency, date)
  if (rate === undefined) return undefined
  await database.query('INSERT IGNORE INTO rate (currency, date, rate) VALUES (:currency, :date, :rate)', {
    replacements: { currency, date, rate },
    transaction: tx,
  })
  return rate
}

/** Rates for many documents at once: asks each currency and date once. */
export function rateCache(
  database: Sequelize,
  base: string,
  tx?: Transaction,
): (currency: string, date: IsoDate) => Promise<string | undefined> {
  const known = new Map<string, Promise<string | undefined>>()
  return (currency, date) => {
    const key = `${currency} ${date}`
    let rate = known.get(key)
    if (!rate) known.set(key, (rate = rateOn(database, base, currency, date, tx)))
    return rate
  }
}

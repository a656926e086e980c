import { z } from 'zod'
import { isIsoDate, type IsoDate } from '../../../core/calendar'
import { isCurrency } from '../../../core/money'
import { isRate, rateOf } from '../../../core/rates'
import type { RateForm, RateRow } from '../../../contract/rates'
import type { Fault } from '../../../contract/common'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { audit, readSettings } from '../../db/settings'
import { loadRates, plainRate } from '../../ledger/rates'
import type { RateSource } from '../../ports/rates'
import { cut, decodeCursor } from '../common/paging'
import { readTable } from '../documents/table'
import { ProblemError } from '../common/problems'

/** The rate in force on a date; undefined when none is known. */
export async function rateOn(
  database: Handle,
  base: string,
  currency: string,
  date: IsoDate,
): Promise<string | undefined> {
  const rates = await loadRates(database, base, [{ currency, date }])
  return rateOf({ base, rates }, currency, date)
}

const rateRow: z.ZodType<RateRow> = z.object({
  currency: cell.text,
  date: cell.day,
  rate: cell.text,
  source: z.enum(['entered', 'imported', 'simulated']),
  by: cell.text.nullable(),
  at: cell.instant,
})

export async function listRates(database: Handle, q: { currency?: string; limit: number; cursor?: string }) {
  const cursor = decodeCursor(q.cursor, 2)
  const where = [
    ...(q.currency ? ['r.currency = :currency'] : []),
    ...(cursor ? ['(r.date < :lastDate OR (r.date = :lastDate AND r.currency > :lastCurrency))'] : []),
  ]
  const rows = await database.rows(
    rateRow,
    `SELECT r.currency, r.date, r.rate, r.source, p.name AS \`by\`, r.at FROM rate r
      LEFT JOIN person p ON p.id = r.person_id ${where.length ? `WHERE ${where.join(' AND ')}` : ''}
      ORDER BY r.date DESC, r.currency LIMIT ${q.limit + 1}`,
    { currency: q.currency, lastDate: cursor?.[0], lastCurrency: cursor?.[1] },
  )
  const page = cut(rows, q.limit, r => [r.date, r.currency])
  const { base } = await readSettings(database)
  return { base, items: page.items.map(r => ({ ...r, rate: plainRate(r.rate) })), next: page.next }
}

type Source = 'entered' | 'imported' | 'simulated'

/**
 * Keeps rates; one that is there for its day is replaced. What was posted keeps the rate it was posted with.
 */
async function keepRates(
  db: Handle,
  personId: number | null,
  source: Source,
  rates: readonly RateForm[],
): Promise<void> {
  for (let at = 0; at < rates.length; at += 1000) {
    const chunk = rates.slice(at, at + 1000)
    await db.run(
      `INSERT INTO rate (currency, date, rate, source, person_id)
        VALUES ${chunk.map(() => '(?, ?, ?, ?, ?)').join(', ')}
        ON DUPLICATE KEY UPDATE rate = VALUES(rate), source = VALUES(source), person_id = VALUES(person_id),
        at = CURRENT_TIMESTAMP(3)`,
      chunk.flatMap(r => [r.currency, r.date, r.rate, source, personId]),
    )
  }
}

const refuseBase = (base: string) =>
  new ProblemError(422, 'Our own currency', `${base} is the currency the books are kept in: it has no rate`, [
    { path: 'currency', message: base },
  ])

export async function enterRate(database: Handle, personId: number, form: RateForm): Promise<RateForm> {
  const { base } = await readSettings(database)
  if (form.currency === base) throw refuseBase(base)
  await database.transaction(async tx => {
    const [before] = await tx.find('rate', { currency: form.currency, date: form.date })
    await keepRates(tx, personId, 'entered', [form])
    const was = before ? plainRate(String(before.rate)) : null
    await audit(tx, personId, 'rate', `${form.currency} ${form.date}`, was, form.rate)
  })
  return form
}

/** A hundred currencies for ten years of days. */
const MOST_LETTERS = 4 * 1024 * 1024

const COLUMNS = ['date', 'currency', 'rate'] as const

/**
 * A CSV of `date,currency,rate`, the rate in base units for one unit. All of it, or nothing and every fault.
 */
export async function importRates(
  database: Handle,
  personId: number,
  text: string,
): Promise<{ imported: number }> {
  const { base } = await readSettings(database)
  if (text.length > MOST_LETTERS)
    throw new ProblemError(413, 'Too large', 'at most 4 MB of rates at once: split the file')
  const { table } = await readTable(text, COLUMNS, COLUMNS)
  const faults: Fault[] = []
  const forms = table.rows.map(({ line, cells: r }): RateForm => {
    const say = (column: string, message: string) =>
      faults.push({ path: `line ${line}, ${column}`, line, column, message })
    const currency = r.currency!.toUpperCase()
    if (!isIsoDate(r.date!)) say('date', `"${r.date}" is not a date: write YYYY-MM-DD`)
    if (!isCurrency(currency)) say('currency', `"${r.currency}" is not a currency: use ISO 4217, such as GBP`)
    if (currency === base) say('currency', `${base} is the currency of the books: it has no rate`)
    if (!isRate(r.rate!)) say('rate', `"${r.rate}" is not a rate: ${base} for one unit, such as 1.1525`)
    return { currency, date: r.date!, rate: r.rate! }
  })
  if (faults.length)
    throw new ProblemError(422, 'Nothing was imported', `${faults.length} cells are wrong`, faults)
  await database.transaction(async tx => {
    await keepRates(tx, personId, 'imported', forms)
    await audit(tx, personId, 'rate', 'import', null, `${forms.length} rates`)
  })
  return { imported: forms.length }
}

/** Takes from a source what it quotes for days, leaving alone what somebody entered. */
export async function takeRates(
  database: Handle,
  base: string,
  source: RateSource,
  days: readonly IsoDate[],
): Promise<void> {
  const rows = days.flatMap(date =>
    source.currencies
      .filter(c => c !== base)
      .flatMap(currency => {
        const rate = source.quote(base, currency, date)
        return rate === undefined ? [] : [{ currency, date, rate, source: source.name, person_id: null }]
      }),
  )
  await database.insert('rate', rows, { ignore: true })
}

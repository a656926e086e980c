import { Op } from '../../db/where'
import { z } from 'zod'
import {
  addBankWorkingDays,
  addDays,
  dayNumber,
  onBankWorkingDay,
  type IsoDate,
} from '../../../core/calendar'
import { advanceOn, commissionOf, type Facility } from '../../../core/factoring'
import { bankDaysOfRule, type ForecastAsk, type PlannedMoney } from '../../../core/forecast'
import { convert } from '../../../core/money'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import type { Settings } from '../../db/settings'
import { loadRates } from '../../ledger/rates'
import { rateKey } from '../../../core/rates'
import { loadCovered } from '../banking/world'
import { factorsOf } from '../factoring/facilities'
import { ProblemError } from '../common/problems'
import { plannedRules } from './planned'

/** Money that comes or goes without a customer's habit, with what it is. */
export interface ToldMoney extends PlannedMoney {
  name: string
  /** Of a planned payment, its id; 0 of others. */
  plannedId: number
}

/** A factor pays an advance so many working days after it was offered the invoice (common practice). */
const ADVANCE_DAYS = 2
/** Its debtors pay it, and the reserve comes, nearly always. Ours. */
const RESERVE_CHANCE = 0.95

const factorCells = z.object({
  facilityId: cell.whole,
  number: cell.text,
  currency: cell.text,
  amount: cell.whole,
  advance: cell.whole,
  commission: cell.whole,
  due: cell.day,
})

const laterOf = (a: IsoDate, b: IsoDate): IsoDate => (a > b ? a : b)

/** An invoice that lies with a factor, or would: what it has paid and kept of it so far, 0 for not yet. */
interface AtFactor {
  number: string
  currency: string
  amount: number
  advance: number
  commission: number
  due: IsoDate
}

/** What a factor still pays for an invoice by its terms: the advance soon, the reserve when it is due. */
function payoutsOf(factor: Facility, invoice: AtFactor, asOf: IsoDate): ToldMoney[] {
  const advance = invoice.advance || advanceOn(factor, invoice.amount)
  const kept = invoice.commission || commissionOf(factor, invoice.amount).gross
  const line = { source: 'factor' as const, currency: invoice.currency, plannedId: 0 }
  const reserve: ToldMoney = {
    ...line,
    name: `${factor.name}, reserve on ${invoice.number}`,
    day: dayNumber(addBankWorkingDays(laterOf(invoice.due, asOf), 1)),
    amount: invoice.amount - advance - kept,
    chance: RESERVE_CHANCE,
  }
  if (invoice.advance) return [reserve]
  const soon: ToldMoney = {
    ...line,
    name: `${factor.name}, advance on ${invoice.number}`,
    day: dayNumber(addBankWorkingDays(asOf, ADVANCE_DAYS)),
    amount: advance,
    chance: 1,
  }
  return [soon, reserve]
}

/** What factors still pay for invoices that lie with them: advances, and what is left when debtors pay. */
async function factorMoney(db: Handle, asOf: IsoDate): Promise<ToldMoney[]> {
  const factors = new Map((await factorsOf(db, asOf)).map(f => [f.id, f]))
  const rows = await db.rows(
    factorCells,
    `SELECT s.facility_id AS facilityId, i.number, s.currency, t.amount, t.advance, t.commission + t.commission_tax
      AS commission, COALESCE(i.due_date, i.document_date) AS due
      FROM factor_item t JOIN factor_schedule s ON s.id = t.schedule_id JOIN item i ON i.id = t.item_id
      WHERE t.live = 1 AND t.state IN ('sent', 'accepted') AND s.on_date <= :asOf`,
    { asOf },
  )
  return rows.flatMap(row => payoutsOf(factors.get(row.facilityId)!, row, asOf))
}

const soldCells = z.object({ number: cell.text, currency: cell.text, open: cell.sum, due: cell.day })

/** What a factor would pay for invoices given to it now; their debtors pay it then. Throws 422. */
export async function soldMoney(
  db: Handle,
  asOf: IsoDate,
  sell: { facility: string; itemIds: readonly number[] },
): Promise<ToldMoney[]> {
  const factor = (await factorsOf(db, asOf)).find(f => f.code === sell.facility)
  if (!factor)
    throw new ProblemError(422, 'Unknown', `there is no factor ${sell.facility}`, [
      { path: 'whatIf.sell.facility', message: 'unknown', satisfy: 'use the code of a factor' },
    ])
  const rows = await db.rows(
    soldCells,
    `SELECT i.number, i.currency, o.open, COALESCE(i.due_date, i.document_date) AS due
      FROM open_item o JOIN item i ON i.id = o.item_id WHERE i.id IN (:ids) AND o.open > 0`,
    { ids: [...sell.itemIds] },
  )
  return rows.flatMap(({ open, ...row }) =>
    payoutsOf(factor, { ...row, amount: int(open), advance: 0, commission: 0 }, asOf),
  )
}

/** Money that is booked and not at the bank yet: slips, cheques and cards on their way, refunds to pay. */
async function bookedMoney(db: Handle, asOf: IsoDate): Promise<ToldMoney[]> {
  const rows = await loadCovered(db, null)
  return rows
    .filter(r => !r.returned && !r.settled)
    .map(r => ({
      source: r.amount < 0 ? ('refunds' as const) : ('collections' as const),
      name: `${r.label}${r.customerName ? `, ${r.customerName}` : ''}`,
      // What is booked is at the bank two working days later (common practice).
      day: dayNumber(addBankWorkingDays(laterOf(r.date, asOf), 2)),
      currency: r.currency,
      amount: r.amount,
      chance: 1,
      plannedId: 0,
    }))
}

/** Planned payments out on their days up to one; held ones so many days later. */
async function plannedMoney(
  db: Handle,
  asOf: IsoDate,
  until: IsoDate,
  held: ReadonlyMap<number, number>,
): Promise<ToldMoney[]> {
  const rules = await plannedRules(db, asOf)
  return rules.flatMap(rule =>
    bankDaysOfRule(rule, asOf, until).flatMap((on): ToldMoney[] => {
      const day = dayNumber(onBankWorkingDay(addDays(on, held.get(rule.id) ?? 0)))
      const line = { name: rule.name, day, chance: 1, plannedId: rule.id }
      const out = { ...line, currency: rule.currency, amount: -rule.amount }
      if (!rule.into) return [{ ...out, source: 'planned' }]
      return [
        { ...out, source: 'transfers' },
        { ...line, ...rule.into, source: 'transfers' },
      ]
    }),
  )
}

/** All of it, as known on a day. What is booked and not at the bank is known of today only. */
export async function toldMoney(
  db: Handle,
  asOf: IsoDate,
  weeks: number,
  isToday: boolean,
  held: ReadonlyMap<number, number> = new Map(),
): Promise<ToldMoney[]> {
  const until = addDays(asOf, weeks * 7)
  return [
    ...(isToday ? await factorMoney(db, asOf) : []),
    ...(isToday ? await bookedMoney(db, asOf) : []),
    ...(await plannedMoney(db, asOf, until, held)),
  ]
}

/** Days of rates that tell how much a currency moves. */
const MOVES_DAYS = 365
/** A rate moves by so much a day where too few rates tell it (about 8 % a year; ours). */
const USUAL_MOVES = 0.005

/**
 * What a minor unit of each currency is worth in base on a day, and how much that moves; and who has no
 * rate.
 */
export async function worthOf(
  db: Handle,
  { base }: Settings,
  asOf: IsoDate,
  currencies: readonly string[],
): Promise<{ rates: ForecastAsk['rates']; without: string[] }> {
  const foreign = currencies.filter(c => c !== base)
  const found = await loadRates(
    db,
    base,
    foreign.map(currency => ({ currency, date: asOf })),
  )
  const rates: ForecastAsk['rates'] = [{ currency: base, rate: 1, moves: 0 }]
  const without: string[] = []
  for (const currency of foreign) {
    const rate = found.get(rateKey(currency, asOf))
    if (rate === undefined) {
      without.push(currency)
      continue
    }
    const many = 1_000_000
    rates.push({
      currency,
      rate: convert(many, currency, base, rate) / many,
      moves: await movesOf(db, currency, asOf),
    })
  }
  return { rates, without }
}

/** Standard deviation of the logarithm of a rate in a day, from the rates of a year. */
async function movesOf(db: Handle, currency: string, asOf: IsoDate): Promise<number> {
  const rows = await db.find(
    'rate',
    { currency, date: { [Op.gt]: addDays(asOf, -MOVES_DAYS), [Op.lte]: asOf } },
    { columns: ['date', 'rate'], order: ['date'] },
  )
  const squares = rows.slice(1).map((r, n) => {
    const before = rows[n]!
    const days = Math.max(1, dayNumber(r.date) - dayNumber(before.date))
    return Math.log(Number(r.rate) / Number(before.rate)) ** 2 / days
  })
  if (squares.length < 10) return USUAL_MOVES
  return Math.sqrt(squares.reduce((a, b) => a + b, 0) / squares.length)
}

const bankBalancesRow = z.object({
  currency: cell.text,
  amount: cell.sum,
})

/** What is at the bank by the ledger at the end of a day, by currency. */
export async function bankBalances(
  db: Handle,
  asOf: IsoDate,
): Promise<{ currency: string; amount: number }[]> {
  const rows = await db.rows(
    bankBalancesRow,
    `SELECT b.currency, COALESCE(SUM(d.amount), 0) AS amount FROM bank_account b
      LEFT JOIN account_day d ON d.account = b.account AND d.currency = b.currency AND d.date <= :asOf
      WHERE b.active = 1 GROUP BY b.currency`,
    { asOf },
  )
  return rows.map(r => ({ currency: r.currency, amount: int(r.amount) }))
}

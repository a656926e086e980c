import { z } from 'zod'
import { cell } from '../../db/rows'
import { whatIf as whatIfBody, type forecastQuery } from '../../../contract/forecast'
import { dayNumber, type IsoDate } from '../../../core/calendar'
import { AS_USUAL, changesOf, ratesOf, type ForecastAsk } from '../../../core/forecast'
import type { Handle } from '../../db/handle'
import { readSettings, type Settings } from '../../db/settings'
import { findCustomers } from '../accounts/customers'
import { ProblemError } from '../common/problems'
import { reminded, type Reminded } from './campaign'
import { knownItems } from './known'
import { bankBalances, soldMoney, toldMoney, worthOf, type ToldMoney } from './money'
import { invoicingCurve, openOrders, type ToldOrder } from './orders'

export type Query = z.output<typeof forecastQuery>
export type WhatIf = z.output<typeof whatIfBody>

/** So many customers are told with the forecast; each one is told alone by its own. */
const TOLD_CUSTOMERS = 200
/** Nothing is otherwise. */
export const NOW: WhatIf = whatIfBody.parse({})

export interface Gathered {
  settings: Settings
  asOf: IsoDate
  currency: string
  ask: ForecastAsk
  money: ToldMoney[]
  orders: ToldOrder[]
  withoutRate: string[]
  /** Days by which a reminder brings money sooner; null: nobody is reminded. */
  sooner: number | null
}

/** All that a forecast is made from, as it was known on its day. */
export async function gather(db: Handle, q: Query, whatIf: WhatIf): Promise<Gathered> {
  const settings = await readSettings(db)
  const asOf = q.asOf ?? settings.today
  if (asOf > settings.today)
    throw new ProblemError(422, 'Not yet', `${asOf} is after today: nothing is known of it`, [
      { path: 'asOf', message: 'in the future', satisfy: `use ${settings.today} or earlier` },
    ])
  const isToday = asOf === settings.today
  const held = new Map(whatIf.payments.map(p => [p.id, p.days]))
  const money = [
    ...(await toldMoney(db, asOf, q.weeks, isToday, held)),
    ...(whatIf.sell ? await soldMoney(db, asOf, whatIf.sell) : []),
  ]
  const balances = await bankBalances(db, asOf)
  const used = await db.find('open_item', {}, { columns: ['currency'], distinct: true })
  const currencies = new Set([
    ...used.map(u => u.currency),
    ...money.map(m => m.currency),
    ...balances.map(b => b.currency),
  ])
  checkWhatIf(whatIf, money, currencies)
  const campaign = whatIf.campaign ? await reminded(db, asOf) : null
  const heldIds = whatIf.stopHeld ? await heldCustomers(db) : []
  const isHeld = new Set(heldIds)
  const orders = (await openOrders(db, asOf, isToday)).filter(o => o.isDelivered || !isHeld.has(o.customerId))
  for (const o of orders) currencies.add(o.currency)
  const { rates, without: withoutRate } = await worthOf(db, settings, asOf, [...currencies])
  const currency = q.currency ?? settings.base
  if (!currencies.has(currency) && currency !== settings.base)
    throw new ProblemError(422, 'No such money', `nothing is open or planned in ${currency}`, [
      { path: 'currency', message: 'unknown here', satisfy: [...currencies].sort().join(', ') },
    ])
  const worth = new Map(rates.map(r => [r.currency, r.rate]))
  const isOne = q.currency !== undefined
  const startOf = ({ currency: own, amount }: (typeof balances)[number]): number =>
    isOne ? (own === currency ? amount : 0) : amount * (worth.get(own) ?? 0)
  return {
    ...{ settings, asOf, currency, money, orders, withoutRate, sooner: campaign?.days ?? null },
    ask: {
      ...{ asOf: dayNumber(asOf), weeks: q.weeks, seed: q.seed, sources: q.sources },
      currency: isOne ? currency : null,
      rates:
        isOne && !rates.some(r => r.currency === currency)
          ? [...rates, { currency, rate: 1, moves: 0 }]
          : rates,
      known: await knownItems(db, asOf, isToday),
      planned: money.map(({ source, day, currency: own, amount, chance }) => ({
        ...{ source, day, currency: own, amount, chance },
      })),
      orders: orders.map(({ customerId, currency: own, amount, orderedOn, isDelivered, terms }) => ({
        ...{ customerId, currency: own, amount, orderedOn, isDelivered, terms },
      })),
      invoicing: await invoicingCurve(db, asOf),
      withoutSales: heldIds,
      without: [...(await itemsAtFactors(db, asOf)), ...(whatIf.sell?.itemIds ?? [])],
      start: balances.length ? Math.round(balances.reduce((sum, b) => sum + startOf(b), 0)) : null,
      floor: isOne ? 0 : settings.forecastPolicy.floor,
      whatIf: await changedOf(db, whatIf, campaign),
      tell: { most: TOLD_CUSTOMERS },
    },
  }
}

const itemsAtFactorsRow = z.object({
  id: cell.whole,
})

/** Items whose debtors pay a factor: with recourse they are open, and their money does not come to us. */
async function itemsAtFactors(db: Handle, asOf: IsoDate): Promise<number[]> {
  const rows = await db.rows(
    itemsAtFactorsRow,
    `SELECT t.item_id AS id FROM factor_item t JOIN factor_schedule s ON s.id = t.schedule_id
      WHERE t.live = 1 AND t.state IN ('sent', 'accepted') AND s.on_date <= :asOf`,
    { asOf },
  )
  return rows.map(r => r.id)
}

/** What a what-if is about must be there: otherwise it would show no effect and say nothing. Throws 422. */
function checkWhatIf(whatIf: WhatIf, money: readonly ToldMoney[], currencies: ReadonlySet<string>): void {
  const planned = new Set(money.map(m => m.plannedId))
  const faults = [
    ...whatIf.payments.flatMap(({ id }, n) =>
      planned.has(id)
        ? []
        : [
            {
              path: `whatIf.payments.${n}.id`,
              message: `payment ${id} is not planned within the weeks`,
              satisfy: 'choose one that is',
            },
          ],
    ),
    ...whatIf.rates.flatMap(({ currency }, n) =>
      currencies.has(currency)
        ? []
        : [
            {
              path: `whatIf.rates.${n}.currency`,
              message: `nothing is open or planned in ${currency}`,
              satisfy: [...currencies].sort().join(', '),
            },
          ],
    ),
  ]
  if (faults[0]) throw new ProblemError(422, 'No such thing', faults[0].message, faults)
}

/** Customers to whom nothing is shipped now. */
async function heldCustomers(db: Handle): Promise<number[]> {
  const rows = await db.find(
    'hold',
    { ended_at: null },
    { columns: { id: 'customer_id' }, order: ['customer_id'], distinct: true },
  )
  return rows.map(r => r.id)
}

async function changedOf(
  db: Handle,
  { customers, rates }: WhatIf,
  campaign: Reminded | null,
): Promise<ForecastAsk['whatIf']> {
  if (!customers.length && !rates.length && !campaign) return null
  const found = await findCustomers(
    db,
    customers.map(c => c.customer),
  )
  const unknown = customers.findIndex(c => !found.has(c.customer))
  if (unknown >= 0)
    throw new ProblemError(422, 'Unknown', `there is no customer ${customers[unknown]!.customer}`, [
      {
        path: `whatIf.customers.${unknown}.customer`,
        message: 'unknown',
        satisfy: 'use a number of an account',
      },
    ])
  const changed = changesOf(
    customers.map(({ customer, ...how }) => ({ id: found.get(customer)!.id, ...how })),
  )
  if (campaign?.days)
    for (const id of campaign.ids)
      changed.set(id, { ...(changed.get(id) ?? AS_USUAL), overdue: -campaign.days })
  return {
    customers: [...changed].map(([id, how]) => ({ id, ...how })),
    rates: ratesOf(rates),
  }
}

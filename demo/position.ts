import { addDays, type IsoDate } from '../core/calendar'
import type { Handle } from '../server/db/handle'
import { writeSetting } from '../server/db/settings'
import { performOrKeep } from '../server/ledger/waiting'
import { changeCustomer } from '../server/services/accounts/master/change'
import { readMaster } from '../server/services/accounts/master/read'
import { keepHolds, releaseCommand, setHold } from '../server/services/exposure/holds'
import { listHeld } from '../server/services/exposure/lists'
import { takeOrders } from '../server/services/exposure/orders'
import type { Actor } from '../server/services/people/scope'
import type { ViewState } from '../contract/views'
import { saveView } from '../server/services/views/views'
import { commentOn } from '../server/services/signOff/signOff'
import { chance } from '../simulators/chance'
import { DEMO_TODAY } from './people'
import type { Payer } from './trade'

interface People {
  controller: Actor
  supervisor: Actor
  cash: Actor
}

const JOBS = ['accounts payable', 'bookkeeping', 'managing director', 'purchasing', 'warehouse office']
const FIRST = [
  'Runa',
  'Colm',
  'Ines',
  'Tadhg',
  'Sorcha',
  'Leif',
  'Maren',
  'Odile',
  'Hal',
  'Berit',
  'Enzo',
  'Noor',
]
const LAST = [
  'Averill',
  'Brannock',
  'Castellan',
  'Dunmore',
  'Eskil',
  'Fenwright',
  'Galvin',
  'Hestness',
  'Orme',
]

/** Views of the lists that everybody uses. */
async function keepViews(database: Handle, supervisor: Actor): Promise<void> {
  const accounts = { search: '', class: '', country: '' }
  const atFirst = ['class', 'contact', 'controller', 'currency', 'limit', 'number', 'place', 'score']
  const aging = {
    ...{ basis: 'due', currency: '', by: 'customer', within: '', buckets: '' },
    ...{ search: '', class: '', country: '', net: false, sort: '-total' },
  }
  const keep = (screen: 'accounts' | 'aging', name: string, state: ViewState) =>
    saveView(database, { screen, name, shared: true, state }, supervisor)
  await keep('accounts', 'Over their limit', {
    ...accounts,
    only: 'over',
    sort: 'headroom',
    hidden: atFirst.filter(key => key !== 'limit'),
  })
  await keep('accounts', 'Held, oldest first', {
    ...accounts,
    only: 'held',
    sort: '-oldest',
    hidden: atFirst,
  })
  await keep('aging', 'Classes in each country', { ...aging, by: 'country', within: 'class', hidden: [] })
  await keep('aging', 'Oldest first', { ...aging, sort: '-oldest', hidden: [] })
}

/**
 * What a controller knows of the accounts beside their items: contacts, orders, insurance, holds, requests.
 */
export async function loadPosition(
  database: Handle,
  people: People,
  payers: readonly Payer[],
): Promise<void> {
  await writeSetting(database, people.supervisor.id, 'signOff', {
    limit: { EUR: 500_000 },
    hold: { EUR: 1_000_000 },
    credit: { EUR: 50_000 },
    'write-off': { EUR: 2_500 },
    refund: { EUR: 50_000 },
    lapse: { EUR: 0 },
  })
  await keepViews(database, people.supervisor)
  await writeSetting(database, people.supervisor.id, 'bucketSets', [
    { name: 'By fortnight', bounds: [14, 28, 42, 56] },
    { name: 'Half a year', bounds: [90, 180] },
  ])
  const risks: [customerClass: string, risk: string, method: string][] = [
    ['food', 'B', 'transfer'],
    ['feed', 'C', 'transfer'],
    ['garden', 'C', 'transfer'],
    ['care', 'B', 'transfer'],
    ['fish', 'D', 'transfer'],
    ['public', 'A', 'transfer'],
  ]
  for (const [code, risk, method] of risks)
    await database.update(
      'customer_class',
      { risk_class: risk, method, statement_cycle: 'monthly' },
      { code },
    )
  await contacts(database, people.controller, payers)
  await groups(database, payers)
  await insured(database, payers)
  await orders(database, people.cash, payers)
  const insolvent = payers.find(p => p.habit === 'insolvent')
  if (insolvent)
    await setHold(
      database,
      people.controller,
      { customer: insolvent.number, reason: 'Insolvency filed, only against payment in advance' },
      {},
    )
  await keepHolds(database)
  await requests(database, people, payers)
}

async function contacts(database: Handle, by: Actor, payers: readonly Payer[]): Promise<void> {
  const c = chance('wrackline contacts')
  const rows = payers
    .filter(() => c.happens(0.3))
    .map(p => {
      const name = `${c.pick(FIRST)} ${c.pick(LAST)}`
      const domain = p.email.split('@')[1]
      return {
        customer_id: p.id,
        name,
        job: c.pick(JOBS),
        email: domain ? `${name.split(' ')[0]!.toLowerCase()}@${domain}` : '',
        phone: p.phone,
        money: c.happens(0.5) ? 1 : 0,
        reminders: c.happens(0.4) ? 1 : 0,
        statements: c.happens(0.6) ? 1 : 0,
        collections: 0,
        person_id: by.id,
      }
    })
  await database.insert('contact', rows)
}

/** The limit of a head is for its whole group. */
async function groups(database: Handle, payers: readonly Payer[]): Promise<void> {
  const heads = new Set(payers.flatMap(p => (p.parent ? [p.parent] : [])))
  for (const p of payers.filter(x => heads.has(x.number)))
    await database.run('UPDATE customer SET credit_limit = credit_limit * 4 WHERE id = :id', { id: p.id })
}

/** One in six is insured, for a part of its limit, until some day of the next year. */
async function insured(database: Handle, payers: readonly Payer[]): Promise<void> {
  const c = chance('wrackline insured')
  for (const p of payers.filter(x => x.creditLimit > 0 && c.happens(0.17)))
    await database.update(
      'customer',
      {
        insured_limit: Math.round((p.creditLimit * c.pick([0.5, 0.6, 0.8])) / 100_000) * 100_000,
        insured_until: addDays(DEMO_TODAY, c.whole(20, 300)),
      },
      { id: p.id },
    )
  // Somebody forgot to renew two of them.
  for (const p of payers.filter(x => x.creditLimit > 0).slice(8, 10))
    await database.update('customer', { limit_until: '2026-10-31' }, { id: p.id })
}

async function orders(database: Handle, by: Actor, payers: readonly Payer[]): Promise<void> {
  const c = chance('wrackline orders')
  let number = 4100
  const list = payers
    .filter(() => c.happens(0.4))
    .flatMap(p =>
      Array.from({ length: c.whole(1, 3) }, () => {
        const amount = Math.max(100, Math.round((p.typical * c.whole(40, 220)) / 100))
        const isUnderWay = c.happens(0.35)
        const delivered = isUnderWay ? Math.round((amount * c.pick([25, 50, 75, 100])) / 100) : 0
        return {
          number: `SO-${++number}`,
          customer: p.number,
          date: addDays(DEMO_TODAY, -c.whole(0, 24)),
          currency: p.currency,
          amount,
          delivered,
          invoiced: isUnderWay && c.happens(0.3) ? Math.round(delivered / 2) : 0,
          state: 'open' as const,
        }
      }),
    )
  await takeOrders(database, by, [
    ...list,
    ...(await invoicedOrders(database, new Set(list.map(o => o.number)))),
  ])
}

/** Orders behind the invoices of the last months: they tell how long an order takes until its invoice. */
async function invoicedOrders(database: Handle, taken: ReadonlySet<string>) {
  const c = chance('wrackline invoiced orders')
  const rows = await database.select<{
    number: string
    customer: string
    currency: string
    amount: number
    date: IsoDate
  }>(
    `SELECT i.order_ref AS number, k.number AS customer, i.currency, i.amount, i.document_date AS date
      FROM item i JOIN customer k ON k.id = i.customer_id
      WHERE i.order_ref <> '' AND i.kind = 'invoice' AND i.part <= 1 AND i.document_date >= :from
      GROUP BY i.order_ref ORDER BY i.id`,
    { from: addDays(DEMO_TODAY, -90) },
  )
  return rows
    .filter(r => !taken.has(r.number))
    .map(({ date, ...row }) => ({
      ...row,
      ...{ amount: Number(row.amount), delivered: Number(row.amount), invoiced: Number(row.amount) },
      date: addDays(date, -c.whole(2, c.happens(0.2) ? 35 : 12)),
      state: 'closed' as const,
    }))
}

/** What the controller asked for on Friday, and waits for the supervisor now. */
async function requests(
  database: Handle,
  { controller, cash }: People,
  payers: readonly Payer[],
): Promise<void> {
  const change = async (number: string, set: object, reason: string) => {
    const { version } = await readMaster(database, number, {})
    return changeCustomer(database, controller, number, { version, set, reason }, {})
  }
  const prompt = payers.filter(p => p.habit === 'prompt' && p.creditLimit > 0 && p.currency === 'EUR')
  const reasons = [
    'pays early since spring, orders more',
    'new cold store, twice the volume',
    'asked by sales for the season',
  ]
  for (const [i, reason] of reasons.entries()) {
    const p = prompt[i]
    if (!p) continue
    const { waiting } = await change(
      p.number,
      { creditLimit: Math.round((p.creditLimit * 1.6) / 100_000) * 100_000 },
      reason,
    )
    if (i === 1 && waiting !== null)
      await commentOn(database, cash, waiting, 'Their last two cheques took a week to clear.')
  }
  const moved = prompt[4]
  if (moved)
    await change(
      moved.number,
      { iban: moved.iban, bankHolder: `${moved.name} Treasury` },
      'letter of 12 November',
    )
  const held = (await listHeld(database, {})).items.find(
    h => h.holds.length === 1 && h.holds[0]!.cause !== 'hand',
  )
  if (held)
    await performOrKeep(database, controller, releaseCommand, {
      customer: held.customer.number,
      cause: held.holds[0]!.cause,
      reason: 'Half was promised by Wednesday, the pallets stand ready',
      until: addDays(DEMO_TODAY, 4),
    })
}

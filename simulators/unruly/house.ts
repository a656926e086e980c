import { addDays, type IsoDate } from '../../core/calendar'
import {
  Directory,
  type Closed,
  type Habit,
  type MatchCustomer,
  type MatchItem,
} from '../../core/banking/matching'
import { share } from '../../core/money'
import { chance, type Chance } from '../chance'

/*
 * Houses of every kind, for measuring: how they number, how large their customers are, what they know of
 * them, how untidily their customers pay. Each seed is another house, so that nothing is fitted to one.
 */

export interface House {
  day: IsoDate
  c: Chance
  /** About 1; above, people write and pay worse. */
  muddle: number
  customers: Payer[]
  directory: Directory
  items: MatchItem[]
  closed: Map<string, Closed>
  habits: Habit[]
  /** Shared bookkeepers who pay for unrelated customers. */
  offices: { name: string; iban: string; clients: Payer[] }[]
  learnt: { iban: string; name: string; customerId: number }[]
}

/** How somebody writes what is paid. */
export type Style =
  'full' | 'list' | 'reference' | 'tails' | 'silent' | 'order' | 'customer' | 'dates' | 'slip' | 'wordy'

export interface Payer extends MatchCustomer {
  /** The bank account it pays from; the house may not know it. */
  paysFrom: string
  style: Style
  takesDiscount: boolean
  /** What its bank keeps back of each payment, minor units. */
  fee: number
  oldestFirst: boolean
  items: MatchItem[]
  settled: Closed[]
}

const FIRST =
  'Alder Birch Cliff Dune Ember Fjord Grove Heath Inlet Jetty Knoll Lagoon Marsh North Orchard Pine Quarry River Shore Tarn Upland Vale Wharf Yarrow Sankt Müller Ståle Côte Giò Peña'.split(
    ' ',
  )
const SECOND =
  'acre bank croft dale field ford gate holm keld ley mere ness pool rigg stead thorpe wick worth heim hof'.split(
    ' ',
  )
const TRADE =
  'Foods Mills Growers Supply Trading Labs Farms Bakers Seeds Works Handel Feinkost Import Bâtiment Conserve Alimentos'.split(
    ' ',
  )
const FORM = ['', '', 'Ltd', 'GmbH', 'SARL', 'AS', 'S.r.l.', 'BV', '& Sons', '& Co. KG']
const PERSON = 'Maria Jonas Aoife Luca Ingrid Piet Chiara Tomás Greta Niall'.split(' ')

const NUMBERS: ((n: number) => string)[] = [
  n => `26-${String(n).padStart(5, '0')}`,
  n => `RE2026-${String(n).padStart(5, '0')}`,
  n => String(4_700_000 + n * 3),
  n => `INV/26/${String(n).padStart(4, '0')}`,
  n => `A-${100_000 + n * 7}`,
  n => `F2026${String(n).padStart(6, '0')}`,
  n => String(90_000 + n),
]
const CUSTOMER_NUMBERS: ((n: number) => string)[] = [
  n => String(10_000 + n),
  n => `K-${1000 + n}`,
  n => `C${String(n).padStart(5, '0')}`,
  n => `D${70_000 + n * 11}`,
]
const ORDERS: ((n: number) => string)[] = [
  n => String(4_500_000_000 + n * 13),
  n => `PO-${8000 + n}`,
  n => `B26-${100 + n}`,
]
const STYLES: [Style, number][] = [
  ['full', 42],
  ['list', 10],
  ['reference', 6],
  ['tails', 7],
  ['silent', 11],
  ['order', 3],
  ['customer', 4],
  ['dates', 3],
  ['slip', 2],
  ['wordy', 12],
]

export function weighted<T>(c: Chance, list: readonly [T, number][]): T {
  let left = c.next() * list.reduce((a, [, w]) => a + w, 0)
  for (const [value, weight] of list) if ((left -= weight) < 0) return value
  return list.at(-1)![0]
}

const account = (c: Chance): string =>
  `${c.pick(['IE', 'DE', 'FR', 'NO', 'NL', 'IT'])}${c.whole(10, 98)}${c.whole(1_000_000, 9_999_999)}${c.whole(1_000_000, 9_999_999)}`

/** A house with so many customers and about 15 open items for each; some have hundreds. */
export function unrulyHouse(seed: string, customers = 400, day: IsoDate = '2026-11-16'): House {
  const c = chance(`house ${seed}`)
  const numberOf = c.pick(NUMBERS)
  const customerNumberOf = c.pick(CUSTOMER_NUMBERS)
  const orderOf = c.pick(ORDERS)
  const knowsIban = 0.4 + c.next() * 0.5
  const learnsIban = c.next() * 0.7
  const recurring = c.next() * 0.35
  const gives = c.next() * 0.6
  const names = namesOf(c, customers)
  const list: Payer[] = names.map((name, n) => {
    const paysFrom = account(c)
    const head = n > 20 && c.happens(0.07) ? c.whole(1, 15) : null
    return {
      id: n + 1,
      number: customerNumberOf(n),
      name,
      iban: c.happens(knowsIban) ? paysFrom : '',
      parentId: head,
      paysFrom,
      style: weighted(c, STYLES),
      takesDiscount: c.happens(0.4),
      fee: c.happens(0.03) ? c.pick([250, 350, 500, 180]) : 0,
      oldestFirst: c.happens(0.6),
      items: [],
      settled: [],
    }
  })
  const items: MatchItem[] = []
  const closed = new Map<string, Closed>()
  let number = c.whole(100, 900)
  for (const p of list) {
    const count = c.happens(0.04) ? c.whole(60, 250) : c.whole(2, 26)
    const steady = c.happens(recurring) ? c.whole(2000, 90_000) : 0
    for (let k = 0; k < count; k++) {
      number += c.whole(1, 3)
      const date = addDays(day, -c.whole(1, 100))
      const amount =
        steady && c.happens(0.7) ? steady : c.happens(0.12) ? c.whole(2, 60) * 5000 : c.whole(1500, 900_000)
      const item: MatchItem = {
        id: items.length + 1,
        customerId: p.id,
        number: numberOf(number),
        kind: 'invoice',
        side: 'debit',
        amount,
        open: amount,
        documentDate: date,
        dueDate: addDays(date, c.pick([14, 30, 30, 30, 60])),
        discounts: c.happens(gives)
          ? [
              { date: addDays(date, 10), amount: share(amount, 3, 100) },
              { date: addDays(date, 20), amount: share(amount, 2, 100) },
            ].slice(0, c.whole(1, 2))
          : [],
        order: c.happens(0.5) ? orderOf(number) : '',
      }
      items.push(item)
      p.items.push(item)
    }
    if (c.happens(0.12)) {
      number += 1
      const amount = c.whole(1000, 40_000)
      const credit: MatchItem = {
        ...p.items[0]!,
        id: items.length + 1,
        number: numberOf(number),
        kind: 'credit-note',
        side: 'credit',
        amount,
        open: amount,
        discounts: [],
        order: '',
      }
      items.push(credit)
      p.items.push(credit)
    }
    for (let k = 0; k < 4; k++) {
      number += 1
      const past: Closed = {
        customerId: p.id,
        number: numberOf(number),
        amount: steady && c.happens(0.7) ? steady : c.whole(1500, 900_000),
        documentDate: addDays(day, -c.whole(45, 90)),
        on: addDays(day, -c.whole(3, 40)),
        by: `R-${c.whole(100_000, 999_999)}`,
        writtenOff: false,
      }
      p.settled.push(past)
      closed.set(past.number.toUpperCase().replace(/[^A-Z0-9]/g, ''), past)
    }
  }
  const offices = Array.from({ length: 3 }, (_, n) => ({
    name: `${c.pick(FIRST)} ${c.pick(['Treuhand', 'Accounting', 'Bookkeepers', 'Comptables'])} ${n}`,
    iban: account(c),
    clients: Array.from({ length: 12 }, () => c.pick(list)),
  }))
  const learnt = [
    ...list
      .filter(p => !p.iban && c.happens(learnsIban))
      .map(p => ({ iban: p.paysFrom, name: p.name, customerId: p.id })),
    ...offices.flatMap(o =>
      o.clients.filter(() => c.happens(0.5)).map(p => ({ iban: o.iban, name: o.name, customerId: p.id })),
    ),
  ]
  return {
    day,
    c,
    muddle: 0.6 + 1.4 * c.next(),
    customers: list,
    directory: new Directory(list),
    items,
    closed,
    habits: habitsOf(c, list),
    offices,
    learnt,
  }
}

function namesOf(c: Chance, count: number): string[] {
  const names: string[] = []
  while (names.length < count) {
    const before = names.at(-1)
    const name =
      before && c.happens(0.08)
        ? `${before.split(' ').slice(0, 2).join(' ')} ${c.pick(['North', 'II', 'Holding', 'Export', 'Bakers'])}`
        : c.happens(0.06)
          ? `${c.pick(PERSON)} ${c.pick(FIRST)}${c.pick(SECOND)}`
          : `${c.pick(FIRST)}${c.pick(SECOND)} ${c.pick(TRADE)} ${c.pick(FORM)}`.trim()
    if (!names.includes(name)) names.push(name)
  }
  return names
}

/** What was learnt of a part of them, mostly rightly. */
function habitsOf(c: Chance, list: readonly Payer[]): Habit[] {
  return list.flatMap((p): Habit[] => {
    if (c.happens(0.4)) return []
    const seen = c.whole(1, 12)
    const oldest = Array.from({ length: seen }).filter(() => c.happens(p.oldestFirst ? 0.85 : 0.3)).length
    const own: Habit[] = [
      { customerId: p.id, kind: 'oldest', amount: 0, times: oldest },
      { customerId: p.id, kind: 'other', amount: 0, times: seen - oldest },
    ]
    return p.fee ? [...own, { customerId: p.id, kind: 'short', amount: p.fee, times: c.whole(1, 6) }] : own
  })
}

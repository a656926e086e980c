import { dayNumber, fromDayNumber } from '../core/calendar'
import { callList, lastPaidOn, patternOf, type CallFacts } from '../core/callList'
import { Customers, LedgerImage, OpenNow, type CustomerRow } from '../core/image'
import { takenBack } from '../core/measures'
import { historyOf } from '../core/review'
import { chance, type Chance } from './chance'

/*
 * A world of customers whose ways are known to nobody but this file: some pay by the clock, some forget until
 * they are rung, some stretch, some have no money. It is there to see whether following a call list brings in
 * more than ringing by amount or by age. The list sees what a ledger shows, nothing else.
 */

/** How a customer pays, and what a call does to it. */
interface Ways {
  /** Days after the due date that it pays by itself; for a payer by the month its day. */
  late: number
  varies: number
  payDay: number | null
  /** The chance that it lets an invoice lie until somebody rings. */
  forgets: number
  /** The chance that a call makes it pay what lies, within some days. */
  heeds: number
  /** Never pays what is open now: no money. */
  isBroke: boolean
}

const WAYS: { share: number; ways: (draw: Chance) => Ways }[] = [
  // By the clock, in time or late: nothing that is rung about comes sooner.
  {
    share: 0.3,
    ways: d => ({
      late: d.whole(-2, 25),
      varies: 2,
      payDay: null,
      forgets: 0.01,
      heeds: 0.3,
      isBroke: false,
    }),
  },
  {
    share: 0.2,
    ways: d => ({
      late: d.whole(0, 10),
      varies: 1,
      payDay: d.pick([1, 10, 15, 20, 28]),
      forgets: 0.02,
      heeds: 0.3,
      isBroke: false,
    }),
  },
  // Lets things lie, and pays when asked.
  {
    share: 0.25,
    ways: d => ({ late: d.whole(0, 12), varies: 6, payDay: null, forgets: 0.3, heeds: 0.75, isBroke: false }),
  },
  // Stretches whom it can.
  {
    share: 0.15,
    ways: d => ({
      late: d.whole(15, 45),
      varies: 15,
      payDay: null,
      forgets: 0.15,
      heeds: 0.5,
      isBroke: false,
    }),
  },
  {
    share: 0.1,
    ways: d => ({
      late: d.whole(10, 40),
      varies: 20,
      payDay: null,
      forgets: 0.4,
      heeds: 0.05,
      isBroke: true,
    }),
  },
]

interface Invoice {
  id: number
  customer: number
  amount: number
  due: number
  /** When it will be paid; Infinity: it lies. */
  paysOn: number
}

export type Strategy = 'list' | 'amount' | 'age'
export interface Collected {
  calls: number
  /** Paid within the days of the measure, minor units. */
  paid: number
  /** Of it what would not have come in these days without a call. */
  gained: number
}

const START = dayNumber('2026-10-01')
const HISTORY_DAYS = 420

class World {
  readonly draw: Chance
  readonly ways: Ways[] = []
  readonly invoices: Invoice[] = []
  readonly image = new LedgerImage()
  private entries = 0
  private readonly customers: number

  constructor(seed: string, customers: number) {
    this.draw = chance(seed)
    this.customers = customers
    for (let n = 0; n < customers; n++) this.ways.push(this.anyWays())
    this.invoiceAndPay()
  }

  private anyWays(): Ways {
    let at = this.draw.next()
    const found = WAYS.find(w => (at -= w.share) <= 0) ?? WAYS[0]!
    return found.ways(this.draw)
  }

  /** The day on which an invoice is paid by itself. */
  private paysOn(ways: Ways, due: number): number {
    if (this.draw.happens(ways.forgets)) return Infinity
    const day = Math.max(due - 8, Math.round(this.draw.around(due + ways.late, ways.varies)))
    if (ways.payDay === null) return day
    for (let on = due; ; on++) if (Number(fromDayNumber(on).slice(8)) === ways.payDay) return on
  }

  private invoiceAndPay(): void {
    const items: { day: number; add: () => void }[] = []
    for (let n = 1; n <= this.customers; n++) {
      const ways = this.ways[n - 1]!
      const size = Math.exp(this.draw.around(11.5, 1.1))
      const every = this.draw.whole(12, 45)
      for (let day = START - HISTORY_DAYS + this.draw.whole(0, every); day < START; day += every) {
        const due = day + 30
        const amount = Math.max(2_000, Math.round(size * (0.5 + this.draw.next())))
        const invoice = { id: 0, customer: n, amount, due, paysOn: this.paysOn(ways, due) }
        // What lay in the past was rung about by somebody, most of the time; who is broke pays no more.
        if (invoice.paysOn === Infinity && due < START - 75 && !ways.isBroke)
          invoice.paysOn = due + this.draw.whole(35, 70)
        if (ways.isBroke && due > START - 90) invoice.paysOn = Infinity
        this.invoices.push(invoice)
        items.push({ day, add: () => this.post(invoice, day) })
        if (invoice.paysOn < START)
          items.push({
            day: Math.max(invoice.paysOn, day),
            add: () => this.pay(invoice, Math.max(invoice.paysOn, day)),
          })
      }
    }
    items.sort((a, b) => a.day - b.day)
    for (const { add } of items) add()
  }

  private item(customer: number, amount: number, day: number, due: number, isDebit: boolean): number {
    const id = ++this.entries
    this.image.addItem({
      id,
      customerId: customer,
      entryId: id,
      kind: isDebit ? 'invoice' : 'receipt',
      isDebit,
      currency: 'EUR',
      amount,
      base: amount,
      documentDay: day,
      dueDay: due,
      postingDay: day,
    })
    return id
  }

  post(invoice: Invoice, day: number): void {
    invoice.id = this.item(invoice.customer, invoice.amount, day, invoice.due, true)
  }

  pay({ id, customer, amount }: Invoice, day: number): void {
    const credit = this.item(customer, amount, day, day, false)
    this.image.addAllocation({
      entryId: credit,
      debitId: id,
      creditId: credit,
      amount,
      debitBase: amount,
      creditBase: amount,
      effectiveDay: day,
    })
  }
}

function rows(world: World): CustomerRow[] {
  const gone = takenBack(world.image)
  return world.ways.map((_, n) => {
    const history = historyOf(world.image, n + 1, gone, START)
    const pattern = patternOf(history.payments, START)
    return {
      id: n + 1,
      number: String(n + 1),
      name: `Customer ${n + 1}`,
      class: '',
      className: '',
      country: 'IE',
      city: '',
      contact: '',
      currency: 'EUR',
      controllerId: null,
      controller: '',
      salesId: null,
      headId: n + 1,
      isMerged: false,
      limit: { amount: null, currency: 'EUR', from: null, until: null, insured: null, insuredUntil: null },
      score: null,
      daysLate: null,
      usual: pattern?.usual ?? null,
      spread: pattern?.spread ?? null,
      payDay: pattern?.payDay ?? null,
      lastPaid: lastPaidOn(history.payments, START),
    } as CustomerRow
  })
}

/** When a customer was rung last, and how often since it paid last. */
interface Called {
  on: number
  inVain: number
}

/** Whom a strategy rings on a day, the best first. Each sees the same ledger and knows whom it rang when. */
function choose(
  strategy: Strategy,
  world: World,
  customers: Customers,
  now: OpenNow,
  day: number,
  called: ReadonlyMap<number, Called>,
  many: number,
): number[] {
  const open = now.at({ day, known: null })
  if (strategy === 'list') {
    const facts = [...called].map(([customerId, { on, inVain }]): CallFacts => ({
      customerId,
      inVain,
      reachedOn: on,
      calledOn: on,
      nextOn: null,
      missed: 0,
      remindedOn: null,
      brokenPromise: false,
      held: false,
      happened: false,
      paused: false,
    }))
    const ask = {
      day,
      wanted: null,
      facts,
      promised: [],
      disputed: [],
      onlyFollowUps: false,
      limit: many,
      offset: 0,
    }
    return callList(customers, open, world.image, ask)
      .rows.slice(0, many)
      .map(r => r.customerId)
  }
  const value = new Map<number, number>()
  const { table } = open
  for (let place = 0; place < table.count; place++) {
    const late = day - table.dueDay[place]!
    if (table.base[place] === 0 || table.debit[place] === 0 || late <= 0) continue
    const id = table.customer[place]!
    const before = value.get(id) ?? 0
    value.set(id, strategy === 'amount' ? before + table.base[place]! : Math.max(before, late))
  }
  // Nobody rings the same customer every day, whatever they sort by: a week lies between.
  const rested = [...value].filter(([id]) => day - (called.get(id)?.on ?? -Infinity) >= 7)
  return rested
    .sort((a, b) => b[1] - a[1] || a[0] - b[0])
    .slice(0, many)
    .map(([id]) => id)
}

/**
 * Rings so many customers on each working day of so many days by a strategy, in a world of a seed. The world
 * is the same for all strategies, and so is what a call does to whom.
 */
export function follow(
  strategy: Strategy,
  seed: string,
  { customers: count = 400, days = 30, callsADay = 8 } = {},
): Collected {
  const world = new World(seed, count)
  const customers = new Customers(rows(world))
  const now = new OpenNow(world.image)
  now.catchUp()
  const called = new Map<number, Called>()
  const result: Collected = { calls: 0, paid: 0, gained: 0 }
  const open = new Set(world.invoices.filter(i => i.paysOn >= START && i.due < START + days))
  const byItself = new Map([...open].map(i => [i, i.paysOn]))
  for (let day = START; day < START + days; day++) {
    for (const invoice of open)
      if (invoice.paysOn <= day) {
        world.pay(invoice, day)
        open.delete(invoice)
        const rung = called.get(invoice.customer)
        if (rung) rung.inVain = 0
        result.paid += invoice.amount
        if (byItself.get(invoice)! >= START + days) result.gained += invoice.amount
      }
    now.catchUp()
    const weekday = (day + 4) % 7
    if (weekday === 0 || weekday === 6) continue
    for (const id of choose(strategy, world, customers, now, day, called, callsADay)) {
      called.set(id, { on: day, inVain: (called.get(id)?.inVain ?? 0) + 1 })
      result.calls++
      const ways = world.ways[id - 1]!
      // The same call on the same day does the same, whoever makes it.
      const answer = chance(`${seed} call ${id} ${day}`)
      if (ways.isBroke || !answer.happens(ways.heeds)) continue
      for (const invoice of open)
        if (invoice.customer === id && invoice.due < day)
          invoice.paysOn = Math.min(invoice.paysOn, day + answer.whole(2, 9))
    }
  }
  return result
}

import type { Handle } from '../server/db/handle'
import {
  addDays,
  addMonths,
  daysBetween,
  isBankWorkingDay,
  onBankWorkingDay,
  weekday,
  type IsoDate,
} from '../core/calendar'
import { int } from '../server/db/connection'
import { writeSetting } from '../server/db/settings'
import { perform } from '../server/ledger/command'
import { readTray } from '../server/services/banking/slips'
import { takeToBank } from '../server/services/banking/paying'
import { reverseCommand } from '../server/services/receipts/commands'
import { settleHeads } from '../server/services/accounts/master/references'
import { takeRates } from '../server/services/rates/rates'
import { confirmRun } from '../server/services/reminders/confirm'
import { changePolicy, policyOn } from '../server/services/reminders/policies'
import { setReferenceRate } from '../server/services/reminders/rates'
import { proposeRun } from '../server/services/reminders/runs'
import type { Actor } from '../server/services/people/scope'
import { simulatedRates } from '../simulators/rates'
import { CLASSES, demoCustomers, type DemoCustomer, type Habit } from './customers'
import { chaseOn, loadChasing } from './chasing'
import { loadPosition } from './position'
import { DEMO_PASSWORD, DEMO_PEOPLE, DEMO_TODAY } from './people'
import { ACCOUNTS, loadBank } from './bank'
import { loadFactoring } from './factoring'
import { keepDemoRecords, planDemoPayments } from './forecast'
import { loadImpairment } from './impairment'
import { loadPayments } from './payments'
import { oneDay, type Payer } from './trade'
import { chance } from '../simulators/chance'
import { hashPassword } from '../server/services/people/passwords'

const FIRST_DAY = '2024-11-18'
const REMINDER_DAYS = ['2026-09-21', '2026-10-05', '2026-10-19', '2026-11-02']

/**
 * Loads the Wrackline scenario: people, customers, two years of documents and receipts, through the same door
 * as a user.
 */
export async function loadDemo(database: Handle, say: (text: string) => void): Promise<void> {
  const people = await addPeople(database)
  const by = (role: string) => people.find(p => p.role === role)!
  const colleague = people.find(p => p.email === 'colleague@wrackline.example')!
  const settings = {
    company: 'Wrackline',
    base: 'EUR',
    overdueTarget: 60_000_000,
    measureTargets: { dso: 55, delinquent: 15, effectiveness: 80, over90Share: 4 },
    sender: 'receivables@wrackline.example',
    house: {
      ...{ street: '3 Kelp Quay', postcode: 'X91 K220', city: 'Carrowbeg', country: 'IE' },
      ...{ vatNumber: 'IE0000000W', email: 'receivables@wrackline.example', phone: '+353 555 0100' },
      ...{ bank: 'Bank of Carrow', iban: ACCOUNTS[0][2], bic: 'ZZZZIE2DXXX', logo: '' },
    },
    demo: true,
    clock: DEMO_TODAY,
    demoPassword: DEMO_PASSWORD,
  }
  for (const [name, value] of Object.entries(settings))
    await writeSetting(database, by('supervisor').id, name, value)
  const days = Array.from({ length: daysBetween(FIRST_DAY, DEMO_TODAY) + 1 }, (_, i) => addDays(FIRST_DAY, i))
  await takeRates(database, settings.base, simulatedRates, days.filter(isBankWorkingDay))
  await addInterest(database, by('supervisor').id)
  const seed = chance('wrackline')
  const payers = await addCustomers(database, demoCustomers(seed), {
    controller: by('controller').id,
    colleague: colleague.id,
    sales: by('sales').id,
  })
  say(`${payers.length} customers`)
  let invoice = 1
  let year = FIRST_DAY.slice(0, 4)
  let invoices = 0
  for (let day = FIRST_DAY; day <= DEMO_TODAY; day = addDays(day, 1)) {
    if (!isBankWorkingDay(day)) continue
    const billed = payers.filter(p => p.nextInvoice <= day)
    // Invoice numbers start again each year.
    if (day.slice(0, 4) !== year) [year, invoice] = [day.slice(0, 4), 1]
    invoices += billed.length
    invoice = await oneDay(
      database,
      day,
      billed,
      payers,
      { cash: by('cash'), controller: by('controller') },
      invoice,
    )
    await ringOn(database, day, by('controller'))
    if (REMINDER_DAYS.includes(day)) await remind(database, day, by('controller'))
    if (weekday(day) === 5 && day < '2026-11-05') await paidIn(database, day, by('cash'))
    if (day.endsWith('-01') || (day.slice(8) < '04' && !isBankWorkingDay(addDays(day, -1))))
      say(`${day.slice(0, 7)}: ${invoices} invoices`)
  }
  await writeSetting(database, by('supervisor').id, 'clock', DEMO_TODAY)
  const bounced = await returnedCheque(database, by('cash'))
  say('bank accounts and their statements')
  await loadBank(database, { cash: by('cash'), supervisor: by('supervisor') }, payers, bounced)
  // Letters of the earlier runs went out then; those of the last one still go, by a real conversation with
  // the mailbox.
  await database.run(
    `UPDATE outbox o JOIN notice n ON n.id = o.notice_id
    SET o.state = 'sent', o.tries = 1, o.reply = '250 sent before the demo begins', o.at = n.on_date,
    o.sent_at = DATE_ADD(n.on_date, INTERVAL 9 HOUR)
    WHERE o.state = 'queued' AND n.on_date < :last`,
    { last: REMINDER_DAYS.at(-1) },
  )
  await addNotes(database, payers, by('controller').id)
  say('orders, holds and what waits to be signed')
  await loadPosition(
    database,
    { controller: by('controller'), supervisor: by('supervisor'), cash: by('cash') },
    payers,
  )
  say('mandates, and credits that wait to go back')
  await loadPayments(
    database,
    {
      controller: by('controller'),
      cash: by('cash'),
      supervisor: by('supervisor'),
      treasurer: by('treasurer'),
    },
    payers,
  )
  say('calls, promises and disputes')
  await loadChasing(database, {
    controller: by('controller'),
    supervisor: by('supervisor'),
    sales: by('sales'),
  })
  await loadImpairment(database, {
    controller: by('controller'),
    cash: by('cash'),
    supervisor: by('supervisor'),
  })
  await loadFactoring(database, { supervisor: by('supervisor'), treasurer: by('treasurer') })
  await planDemoPayments(database, { supervisor: by('supervisor'), treasurer: by('treasurer') }, DEMO_TODAY)
  say('forecasts of the last weeks')
  await keepDemoRecords(database, DEMO_TODAY)
  await database.insert('deputy', [
    {
      absent_id: colleague.id,
      deputy_id: by('controller').id,
      from_date: DEMO_TODAY,
      until_date: addDays(DEMO_TODAY, 4),
      person_id: colleague.id,
    },
  ])
}

/** Reference rates of four half years, made up: real ones are entered under Setup. */
const REFERENCE: [code: string, percents: [string, string, string, string]][] = [
  ['ECB', ['3.15', '2.15', '2.15', '2.15']],
  ['DE base', ['2.27', '1.27', '1.27', '1.27']],
  ['GB base', ['4.75', '4.25', '4', '3.75']],
]
const HALF_YEARS = ['2025-01-01', '2025-07-01', '2026-01-01', '2026-07-01'] as const

/** From today on the second and third reminder claim interest, and the third has consequences. */
async function addInterest(database: Handle, personId: number): Promise<void> {
  for (const [code, percents] of REFERENCE)
    for (const [n, from] of HALF_YEARS.entries())
      await setReferenceRate(database, personId, {
        code,
        from,
        percent: percents[n]!,
        source: 'made up for the demo',
      })
  const { code, validFrom: _, ...policy } = await policyOn(database, 'standard', DEMO_TODAY)
  await changePolicy(database, personId, code, {
    ...policy,
    levels: policy.levels.map((level, n) => ({
      ...level,
      interest: n > 0,
      consequence: { hold: n === 2, tellSales: n === 2, handOver: n === 2 },
    })),
    interest: {
      convention: 'actual/365',
      percent: '8',
      reference: 'ECB',
      basis: { otherwise: 'floating', byCountry: { GB: 'locked' } },
      minimum: { EUR: 200, GBP: 200, USD: 200, NOK: 2000, JPY: 300 },
    },
    validFrom: DEMO_TODAY,
  })
}

/** Mondays and Thursdays are for the telephone; of the last weeks every day. */
async function ringOn(database: Handle, day: IsoDate, actor: Actor): Promise<void> {
  if (day >= '2026-10-26' && day < DEMO_TODAY) await chaseOn(database, day, actor, { calls: 5, from: 30 })
  else if ([1, 4].includes(weekday(day)) && day < DEMO_TODAY)
    await chaseOn(database, day, actor, { calls: 3, from: 20 })
}

async function addPeople(database: Handle): Promise<Actor[]> {
  const hash = await hashPassword(DEMO_PASSWORD)
  await database.insert(
    'person',
    DEMO_PEOPLE.map(p => ({ ...p, password_hash: hash })),
  )
  return database.find('person', {}, { columns: ['id', 'name', 'email', 'role'] })
}

/** As whoever opened the account saw it, long before anybody knew how it pays. */
const RISK_OF: Record<Habit, string> = {
  prompt: 'B',
  early: 'B',
  'month-end': 'C',
  slow: 'D',
  erratic: 'D',
  insolvent: 'C',
}

/** A review a year, spread over the months; of some the day has come. */
const reviewDateOf = (n: number): IsoDate => addMonths('2026-11-09', (n * 5) % 13)

async function addCustomers(
  database: Handle,
  customers: DemoCustomer[],
  people: { controller: number; colleague: number; sales: number },
): Promise<Payer[]> {
  await database.insert('customer_class', CLASSES)
  await database.insert(
    'customer',
    customers.map((c, i) => ({
      number: c.number,
      name: c.name,
      class: c.class,
      country: c.country,
      language: c.language,
      currency: c.currency,
      // What its class says is inherited, not written again.
      terms: CLASSES.some(k => k.code === c.class && k.terms === c.terms) ? '' : c.terms,
      credit_limit: c.creditLimit,
      risk_class: RISK_OF[c.habit],
      review_date: reviewDateOf(i),
      contact: c.contact,
      street: c.street,
      postcode: c.postcode,
      city: c.city,
      email: c.email,
      phone: c.phone,
      iban: c.iban,
      controller_id: i % 5 === 2 ? people.colleague : people.controller,
      sales_id: i % 4 === 0 ? people.sales : null,
      person_id: people.controller,
    })),
  )
  const ids = new Map(
    (await database.find('customer', {}, { columns: ['id', 'number'] })).map(r => [r.number, r.id]),
  )
  for (const c of customers.filter(k => k.parent)) {
    await database.update('customer', { parent_id: ids.get(c.parent!) }, { id: ids.get(c.number) })
  }
  await settleHeads(database)
  return customers.map(c => {
    const own = chance(`wrackline ${c.number}`)
    return {
      ...c,
      id: ids.get(c.number)!,
      nextInvoice: onBankWorkingDay(addDays(FIRST_DAY, own.whole(0, c.every))),
      invoices: [],
      credits: [],
      chance: own,
      cheque: own.whole(1200, 8800),
    }
  })
}

async function remind(database: Handle, day: IsoDate, actor: Actor): Promise<void> {
  await writeSetting(database, actor.id, 'clock', day)
  const run = await proposeRun(database, actor, { asOf: day, policy: 'standard' })
  if (run.totals.notices) await confirmRun(database, actor, run.id, { version: run.version })
}

/** On Fridays the tray goes to the bank, a slip for each currency; some cash is kept. */
async function paidIn(database: Handle, day: IsoDate, actor: Actor): Promise<void> {
  const tray = await readTray(database, {})
  if (!tray.items.length) return
  await writeSetting(database, actor.id, 'clock', day)
  for (const { currency, cash } of tray.totals) {
    const own = tray.items.filter(i => i.currency === currency)
    await takeToBank(database, actor, {
      date: day,
      means: own.map(i => i.id),
      cashKept: currency === 'EUR' && cash > 100_000 && day.slice(8) < '08' ? 20_000 : 0,
    })
  }
}

/**
 * The last large cheque that went to the bank comes back unpaid: paid, then reversed. The bank's own line
 * follows.
 */
async function returnedCheque(
  database: Handle,
  actor: Actor,
): Promise<{ reference: string; amount: number; currency: string } | null> {
  const [row] = await database.select<{
    id: number
    reference: string
    amount: number
    currency: string
  }>(`SELECT i.id, m.reference, i.amount, i.currency FROM item i JOIN receipt_means m ON m.item_id = i.id
      JOIN slip_means sm ON sm.means_id = m.id WHERE m.means = 'cheque' AND m.amount = i.amount
      AND i.currency = 'EUR' AND i.posting_date >= '2026-10-20' ORDER BY i.amount DESC LIMIT 1`)
  if (!row) return null
  await perform(database, actor, reverseCommand, {
    date: DEMO_TODAY,
    reason: 'Cheque returned unpaid by the bank',
    itemId: row.id,
  })
  return row
}

const CALLS = [
  'Rang accounts payable. They will pay the September items once the pallet of dulse turns up.',
  'Asked for copies of two invoices, sent while on the phone.',
  'Says the bank was changed, new mandate to follow.',
  'Promised half this week and the rest at month end.',
  'Not in the office until Thursday, ring again in the morning.',
  'Disputes the freight charge; sales to look into it.',
  'Very friendly, pays on the last working day, always.',
]

async function addNotes(database: Handle, payers: Payer[], personId: number): Promise<void> {
  const late = await database.select<{ id: number; n: unknown }>(
    `SELECT customer_id AS id, SUM(base_open) AS n FROM open_item WHERE open > 0 AND due_date < :today
      GROUP BY customer_id ORDER BY n DESC LIMIT 40`,
    { today: DEMO_TODAY },
  )
  const c = chance('wrackline notes')
  const rows = late
    .filter(r => int(r.n) > 0 && payers.some(p => p.id === r.id))
    .flatMap(r =>
      Array.from({ length: c.whole(1, 2) }, (_, i) => ({
        customer_id: r.id,
        text: c.pick(CALLS),
        on_date: addDays(DEMO_TODAY, -c.whole(1, 9) - 10 * (1 - i)),
        person_id: personId,
      })),
    )
  if (rows.length)
    await database.insert(
      'note',
      rows.sort((a, b) => (a.on_date < b.on_date ? -1 : 1)),
    )
}

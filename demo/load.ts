import type { Handle } from '../server/db/handle'
import {
  addDays,
  addMonths,
  daysBetween,
  discountOn,
  discountSteps,
  dueParts,
  endOfMonth,
  isBankWorkingDay,
  onBankWorkingDay,
  parseTerms,
  weekday,
  type IsoDate,
} from '../core/calendar'
import { allocate, postReceipt } from '../core/receipts'
import { applyPosting, type Means, type Posting } from '../core/ledger'
import { postDocument } from '../core/documents'
import { share } from '../core/money'
import { int } from '../server/db/connection'
import { writeSetting } from '../server/db/settings'
import { perform, type By } from '../server/ledger/command'
import { readTray } from '../server/services/banking/slips'
import { takeToBank } from '../server/services/banking/paying'
import { reverseCommand } from '../server/services/receipts/commands'
import { takeRates } from '../server/services/rates/rates'
import { confirmRun } from '../server/services/reminders/confirm'
import { proposeRun } from '../server/services/reminders/runs'
import type { Actor } from '../server/services/people/scope'
import { simulatedRates } from '../simulators/rates'
import { CLASSES, demoCustomers, type DemoCustomer } from './customers'
import { DEMO_PASSWORD, DEMO_PEOPLE, DEMO_TODAY } from './people'
import { loadBank } from './bank'
import { posted, postingsOf } from './door'
import { chance, type Chance } from '../simulators/chance'
import { hashPassword } from '../server/services/people/people'

const FIRST_DAY = '2024-11-18'
const TAX = 2300
/** Harvest runs from April to October: more is sold then. */
const SEASON = [0.7, 0.7, 0.8, 1, 1.15, 1.25, 1.3, 1.3, 1.25, 1.1, 0.85, 0.75]
/** The first day whose transfers are told by the bank only. */
const BANK_FROM = '2026-11-05'
const REMINDER_DAYS = ['2026-09-21', '2026-10-05', '2026-10-19', '2026-11-02']

export interface Payer extends DemoCustomer {
  id: number
  nextInvoice: IsoDate
  invoices: OpenInvoice[]
  credits: { id: number; amount: number; number: string }[]
  chance: Chance
  cheque: number
}
export interface OpenInvoice {
  atBank?: boolean
  due: IsoDate
  amount: number
  id: number
  number: string
  open: number
  payOn: IsoDate
  date: IsoDate
  discounts: { date: IsoDate; amount: number }[]
}

/**
 * Loads the Wrackline scenario: people, customers, two years of documents and receipts, through the same door
 * as a user.
 */
export async function loadDemo(database: Handle, say: (text: string) => void): Promise<void> {
  const people = await addPeople(database)
  const by = (role: string) => people.find(p => p.role === role)!
  const settings = {
    company: 'Wrackline',
    base: 'EUR',
    overdueTarget: 60_000_000,
    sender: 'receivables@wrackline.example',
    demo: true,
    clock: DEMO_TODAY,
  }
  for (const [name, value] of Object.entries(settings))
    await writeSetting(database, by('supervisor').id, name, value)
  const days = Array.from({ length: daysBetween(FIRST_DAY, DEMO_TODAY) + 1 }, (_, i) => addDays(FIRST_DAY, i))
  await takeRates(database, settings.base, simulatedRates, days.filter(isBankWorkingDay))
  const seed = chance('wrackline')
  const payers = await addCustomers(database, demoCustomers(seed), by('controller').id, by('sales').id)
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
}

async function addPeople(database: Handle): Promise<Actor[]> {
  const hash = await hashPassword(DEMO_PASSWORD)
  await database.insert(
    'person',
    DEMO_PEOPLE.map(p => ({ ...p, password_hash: hash })),
  )
  return database.select<Actor>('SELECT id, name, email, role FROM person')
}

async function addCustomers(
  database: Handle,
  customers: DemoCustomer[],
  controller: number,
  sales: number,
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
      terms: c.terms,
      credit_limit: c.creditLimit,
      contact: c.contact,
      email: c.email,
      phone: c.phone,
      iban: c.iban,
      controller_id: controller,
      sales_id: i % 4 === 0 ? sales : null,
      person_id: controller,
    })),
  )
  const ids = new Map(
    (await database.select<{ id: number; number: string }>('SELECT id, number FROM customer')).map(r => [
      r.number,
      r.id,
    ]),
  )
  for (const c of customers.filter(k => k.parent)) {
    await database.run('UPDATE customer SET parent_id = :parent WHERE id = :id', {
      parent: ids.get(c.parent!),
      id: ids.get(c.number),
    })
  }
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

/** When this customer will pay an invoice due on a day. */
function payDay(p: Payer, due: IsoDate, discounts: { date: IsoDate }[]): IsoDate {
  if (p.habit === 'early' && discounts.length)
    return onBankWorkingDay(addDays(p.chance.pick(discounts).date, -p.chance.whole(1, 4)))
  if (p.habit === 'insolvent' && due > '2026-05-01') return '2999-12-31'
  const late = Math.round(p.chance.around(p.daysLate, p.spread))
  let day = addDays(due, late)
  if (p.habit === 'month-end') day = endOfMonth(day < due ? due : day)
  // Now and then an invoice is argued about and lies for months.
  if (p.habit === 'erratic' && p.chance.happens(0.12)) day = addDays(due, p.chance.whole(60, 200))
  return onBankWorkingDay(day)
}

async function oneDay(
  database: Handle,
  day: IsoDate,
  billed: Payer[],
  payers: Payer[],
  by: { cash: By; controller: By },
  firstInvoice: number,
): Promise<number> {
  let invoice = firstInvoice
  // From here on transfers are no longer keyed: the bank shows them.
  if (day >= BANK_FROM)
    for (const p of payers)
      if (byTransfer(p, day)) for (const i of p.invoices) if (i.payOn <= day) i.atBank = true
  const paying = payers.filter(p => p.invoices.some(i => i.payOn <= day && !i.atBank))
  const customerIds = [...new Set([...billed, ...paying].map(p => p.id))]
  if (!customerIds.length) return invoice
  const rates = new Map<string, string>()
  for (const currency of new Set([...billed, ...paying].map(p => p.currency)))
    rates.set(currency, simulatedRates.quote('EUR', currency, day)!)

  const due = paying.flatMap(p => [
    ...p.invoices.filter(i => i.payOn <= day && !i.atBank).map(i => i.id),
    ...p.credits.map(c => c.id),
  ])
  const owners: Payer[] = []
  const bills = await postingsOf(database, by.controller, { day, customerIds, itemIds: [] }, ledger =>
    billed.flatMap(p => {
      const made = bill(ledger, p, day, `${day.slice(2, 4)}-${String(invoice++).padStart(4, '0')}`, rates)
      owners.push(...made.map(() => p))
      return made
    }),
  )
  await postingsOf(database, by.cash, { day, customerIds, itemIds: due }, ledger =>
    paying.flatMap(p => payments(ledger, p, day, rates.get(p.currency)!)),
  )
  bills.written.forEach((w, i) => {
    const item = bills.postings[i]!.items[0]!
    const { id } = w.items[0]!
    if (item.kind !== 'invoice') {
      owners[i]!.credits.push({ id, amount: item.amount, number: item.number })
      return
    }
    owners[i]!.invoices.push({
      id,
      number: item.number,
      open: item.amount,
      payOn: payDay(owners[i]!, item.dueDate, item.discounts),
      date: day,
      due: item.dueDate,
      amount: item.amount,
      discounts: item.discounts,
    })
  })
  return invoice
}

/** The invoice of a customer, now and then with a credit note, and when the next is due. */
function bill(
  ledger: State,
  p: Payer,
  day: IsoDate,
  number: string,
  rates: ReadonlyMap<string, string>,
): Posting[] {
  const rate = rates.get(p.currency)!
  const { posting } = document(ledger, p, day, number, rate)
  const made = [posting]
  if (p.chance.happens(0.025)) {
    const amount = share(posting.items[0]!.amount, p.chance.whole(4, 18), 100)
    made.push(credit(ledger, p, day, `C${number}`, amount, rate, number))
  }
  const season = SEASON[Number(day.slice(5, 7)) - 1]!
  const days = Math.max(2, Math.round(p.chance.around(p.every, p.every / 5) / season))
  p.nextInvoice = onBankWorkingDay(addDays(day, days))
  if (p.habit === 'insolvent' && day > '2026-07-15') p.nextInvoice = '2999-12-31'
  return made
}

const byCheque = (p: Payer) => p.country === 'IE' || p.country === 'US'
const byTransfer = (p: Payer, day: IsoDate) =>
  !byCheque(p) || chance(`wrackline means ${p.number} ${day}`).happens(0.5)

type State = Parameters<typeof postDocument>[0]

function document(state: State, p: Payer, day: IsoDate, number: string, rate: string): { posting: Posting } {
  const rounding = p.currency === 'JPY' ? 100 : 1
  const net = Math.max(5000, Math.round((p.typical * (0.4 + p.chance.next() * 1.2)) / rounding) * rounding)
  const tax = p.country === 'IE' ? share(net, TAX, 10_000) : 0
  const amount = net + tax
  const terms = parseTerms(p.terms)
  const text = p.chance.pick([
    'dried dulse',
    'kelp meal',
    'agar powder',
    'milled wrack',
    'nori flakes',
    'carrageen',
    'liquid kelp',
  ])
  return {
    posting: posted(
      postDocument(state, {
        customerId: p.id,
        kind: 'invoice',
        number,
        series: null,
        currency: p.currency,
        amount,
        tax,
        documentDate: day,
        parts: dueParts(terms, day, amount),
        discounts: discountSteps(terms, day, amount),
        rate,
        order: `SO-${number.slice(3)}`,
        text,
      }),
    ),
  }
}

function credit(
  state: State,
  p: Payer,
  day: IsoDate,
  number: string,
  amount: number,
  rate: string,
  invoice: string,
): Posting {
  return posted(
    postDocument(state, {
      customerId: p.id,
      kind: 'credit-note',
      number,
      series: null,
      currency: p.currency,
      amount: Math.max(100, amount),
      tax: 0,
      documentDate: day,
      parts: [{ dueDate: day, amount: Math.max(100, amount) }],
      discounts: [],
      rate,
      order: '',
      text: `Short delivery, ${invoice}`,
    }),
  )
}

/** What a customer pays on a day: one receipt over all it has decided to pay, credits taken off first. */
function payments(state: State, p: Payer, day: IsoDate, rate: string): Posting[] {
  const due = p.invoices.filter(i => i.payOn <= day && !i.atBank)
  const postings: Posting[] = []
  const pairs: { debitItemId: number; creditItemId: number; amount: number }[] = []
  for (const c of [...p.credits]) {
    const target = due.find(i => i.open > c.amount)
    // Some credits are forgotten, and wait.
    if (!target || p.chance.happens(0.35)) continue
    pairs.push({ debitItemId: target.id, creditItemId: c.id, amount: c.amount })
    target.open -= c.amount
    p.credits = p.credits.filter(x => x !== c)
  }
  const means: Means =
    day >= BANK_FROM
      ? p.chance.pick(['cheque', 'cheque', 'cash'] as const)
      : byCheque(p)
        ? p.chance.pick(['cheque', 'transfer', 'transfer', 'cash'] as const)
        : 'transfer'
  const shortBy = p.chance.happens(p.short) ? p.chance.whole(20, 60) : 0
  // Discount takers pay less the discount; now and then somebody is a few cents short.
  const allocations = due.map((i, n) => {
    const item = state.items.get(i.id)!
    const discount = p.habit === 'early' && i.open === item.amount ? discountOn(i.discounts, day) : 0
    const paid = i.open - discount
    const difference = !discount && p.currency === 'EUR' && p.chance.happens(0.02) ? p.chance.whole(1, 90) : 0
    return {
      itemId: i.id,
      amount: n === 0 && shortBy && !discount ? i.open - share(i.open, shortBy, 100) : paid - difference,
      discount,
      difference: n === 0 && shortBy ? 0 : difference,
    }
  })
  const assigned = allocations.reduce((a, x) => a + x.amount, 0)
  // A muddled reference now and then: the money is on account until somebody asks. Recent ones still are.
  const muddled = day > '2026-10-12' && p.chance.happens(0.06)
  const over = !muddled && p.chance.happens(0.012) ? p.chance.whole(1000, 40_000) : 0
  if (pairs.length) postings.push(posted(allocate(state, { date: day, pairs })))
  if (assigned > 0) {
    const scratch = pairs.length ? afterwards(state, postings[0]!) : state
    postings.push(
      posted(
        postReceipt(scratch, {
          customerId: p.id,
          currency: p.currency,
          date: day,
          text: '',
          rate,
          allocations: muddled ? [] : allocations,
          onAccount: muddled ? assigned : over,
          means: [
            {
              means,
              amount: assigned + over,
              reference:
                means === 'cheque'
                  ? String(p.cheque++).padStart(6, '0')
                  : muddled
                    ? 'payment, thank you'
                    : means === 'transfer'
                      ? due
                          .map(i => i.number)
                          .join(' ')
                          .slice(0, 60)
                      : '',
            },
          ],
        }),
      ),
    )
  }
  for (const [n, i] of due.entries()) {
    const part = allocations[n]!
    i.open -= muddled ? 0 : part.amount + part.discount + part.difference
    i.payOn = muddled ? '2999-12-31' : onBankWorkingDay(addMonths(day, p.chance.whole(1, 4)))
  }
  p.invoices = p.invoices.filter(i => i.open > 0)
  return postings
}

/** The state as the first posting leaves it, for the second that follows in the same breath. */
function afterwards(state: State, posting: Posting): State {
  const touched = posting.allocations.flatMap(a => [a.debitItemId, a.creditItemId])
  const copy: State = {
    ...state,
    items: new Map([...state.items].map(([id, i]) => [id, touched.includes(id) ? { ...i } : i])),
    allocations: new Map(),
  }
  applyPosting({ state: copy, lines: [] }, posting)
  return copy
}

async function remind(database: Handle, day: IsoDate, actor: Actor): Promise<void> {
  await writeSetting(database, actor.id, 'clock', day)
  const run = await proposeRun(database, actor, { asOf: day, policy: 'standard' })
  if (run.notices.length) await confirmRun(database, actor, run.id, { version: run.version, exclude: [] })
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

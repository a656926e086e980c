import type { Handle } from '../server/db/handle'
import { addDays, addMonths, endOfMonth, isBankWorkingDay, type IsoDate } from '../core/calendar'
import { writeCamt, type StatementLine } from '../formats/statements'
import { int } from '../server/db/connection'
import { writeSetting } from '../server/db/settings'
import { addBankAccount } from '../server/services/banking/accounts'
import { loadLines } from '../server/services/banking/lines'
import { addRule } from '../server/services/banking/rules'
import { bankFolder } from '../server/wiring'
import { takeStatement } from '../server/services/banking/statements'
import { applyLines, type Said } from '../server/services/banking/clear'
import { loadCovered } from '../server/services/banking/world'
import type { Actor } from '../server/services/people/scope'
import { bare, deliverUpTo, setUpBank } from '../simulators/bank'
import { accountHabits, pulledOf } from './payments'
import type { Payer } from './trade'
import { DEMO_TODAY } from './people'

export const ACCOUNTS = [
  ['EUR', 'Current account', 'IE45WRKL00000112345678', '1200'],
  ['GBP', 'Sterling account', 'GB58WRKL00000031926819', '1201'],
  ['NOK', 'Krone account', 'NO3599991234000', '1202'],
  ['USD', 'Dollar account', 'IE44WRKL00000155512345', '1203'],
  ['JPY', 'Yen account', 'IE84WRKL00000187654321', '1204'],
] as const
const HISTORY_TO = '2026-11-04'

/**
 * Bank accounts with two years of statements, worked to the end; then the simulated bank opens with what the
 * payers mean to pay, and the statements of last week lie in the inbox. The account numbers have the form of
 * ISO 13616 and right check digits; no bank has their codes.
 */
export async function loadBank(
  database: Handle,
  by: { cash: Actor; supervisor: Actor },
  payers: readonly Payer[],
  bounced: { reference: string; amount: number; currency: string } | null,
): Promise<void> {
  for (const [currency, name, iban, account] of ACCOUNTS)
    await addBankAccount(database, by.supervisor.id, { name, iban, currency, account, csvMap: null })
  const charges = (
    await database.find('ledger_account', { purpose: 'bank-charges' }, { columns: ['number'] })
  )[0]!.number
  await addRule(database, by.supervisor.id, {
    iban: '',
    words: 'bank charges',
    account: charges,
    moneyIn: false,
  })
  await addRule(database, by.supervisor.id, {
    iban: '',
    words: 'operating account',
    account: '1290',
    moneyIn: false,
  })
  await writeSetting(database, by.supervisor.id, 'matching', { automatic: false, wrongCosts: 40 })
  const balances = new Map<string, number>()
  const covered = (await loadCovered(database, null)).filter(
    c => c.date <= HISTORY_TO && c.kind !== 'reversal',
  )
  let number = 0
  for (let from: IsoDate = '2024-11-18'; from <= HISTORY_TO; from = addDays(endOfMonth(from), 1)) {
    const to = endOfMonth(from) < HISTORY_TO ? endOfMonth(from) : HISTORY_TO
    number++
    for (const [currency, , iban] of ACCOUNTS)
      await month(
        database,
        by.cash,
        { currency, iban, from, to, number, charges },
        covered.filter(c => c.currency === currency && c.date >= from && c.date <= to),
        balances,
      )
  }
  await writeSetting(database, by.supervisor.id, 'matching', { automatic: true, wrongCosts: 40 })
  const folder = bankFolder()
  setUpBank(folder, {
    seed: 'wrackline',
    muddle: 7,
    deliveredTo: HISTORY_TO,
    invoicedTo: DEMO_TODAY,
    lastInvoice: await lastInvoice(database),
    accounts: ACCOUNTS.map(([currency, , iban]) => ({
      currency,
      iban,
      balance: balances.get(currency) ?? 0,
      number,
    })),
    payers: await payersOf(database, payers),
    habits: accountHabits(payers),
    planned: bounced
      ? [
          {
            currency: bounced.currency,
            kind: 'return',
            how: `cheque ${bounced.reference}`,
            line: {
              ...bare(
                '2026-11-13',
                -bounced.amount,
                `UNPAID CHEQUE ${bounced.reference} REFER TO DRAWER`,
                'PMNT-RCHQ-UPCQ',
                'U20261113',
              ),
              returnReason: 'AM04',
            },
          },
        ]
      : [],
  })
  deliverUpTo(folder, '2026-11-13', [])
}

type Covered = Awaited<ReturnType<typeof loadCovered>>[number]

/**
 * One month of one account: transfers collected by day, each slip a line, charges, and what is not needed
 * goes to the operating account.
 */
async function month(
  database: Handle,
  actor: Actor,
  m: {
    currency: string
    iban: string
    from: IsoDate
    to: IsoDate
    number: number
    charges: string
  },
  covered: readonly Covered[],
  balances: Map<string, number>,
): Promise<void> {
  const lines: { line: StatementLine; said: Omit<Said, 'id' | 'version'> }[] = []
  const days = new Map<string, Covered[]>()
  for (const c of covered) {
    const key = c.kind === 'slip' ? `${c.date} ${c.label}` : c.date
    days.set(key, [...(days.get(key) ?? []), c])
  }
  for (const [key, list] of days) {
    const slip = list[0]!.kind === 'slip'
    const amount = list.reduce((a, c) => a + c.amount, 0)
    lines.push({
      line: bare(
        list[0]!.date,
        amount,
        slip ? `LODGEMENT ${list[0]!.label}` : `${list.length} PAYMENT${list.length > 1 ? 'S' : ''} RECEIVED`,
        slip ? 'PMNT-CNTR-CDPT' : 'PMNT-RCDT-ESCT',
        `H${m.currency}${key.replace(/\W/g, '')}`,
      ),
      said: {
        action: { kind: 'covered', targets: list.map(c => ({ kind: c.kind, id: c.id })), restAccount: null },
        told: `settles ${list
          .slice(0, 3)
          .map(c => c.label)
          .join(', ')}${list.length > 3 ? ` and ${list.length - 3} more` : ''}`,
        confidence: null,
      },
    })
  }
  if (!lines.length) return
  const opening = balances.get(m.currency) ?? 0
  const last = lastWorkingDay(m.to)
  if (m.currency === 'EUR')
    lines.push({
      line: bare(last, -2150, `BANK CHARGES ${m.from.slice(0, 7)}`, 'ACMT-MDOP-CHRG', `HF${m.from}`),
      said: {
        action: { kind: 'ledger', account: m.charges, words: '', rememberPayer: false },
        told: 'lines with “bank charges” go to the account of bank charges',
        confidence: 0.97,
      },
    })
  const balance = opening + lines.reduce((a, l) => a + l.line.amount, 0)
  const away = Math.floor((balance * 0.8) / 100_000) * 100_000
  if (away > 0 && m.to !== HISTORY_TO)
    lines.push({
      line: bare(last, -away, 'TRANSFER TO OPERATING ACCOUNT', 'PMNT-ICDT-BOOK', `HT${m.currency}${m.from}`),
      said: {
        action: { kind: 'ledger', account: '1290', words: '', rememberPayer: false },
        told: 'lines with “operating account” go to 1290',
        confidence: 0.97,
      },
    })
  lines.sort((a, b) =>
    a.line.bookingDate < b.line.bookingDate ? -1 : a.line.bookingDate > b.line.bookingDate ? 1 : 0,
  )
  const closing = opening + lines.reduce((a, l) => a + l.line.amount, 0)
  balances.set(m.currency, closing)
  const file = writeCamt(
    {
      format: 'camt.053',
      id: `${m.to.slice(0, 4)}-${m.currency}-${String(m.number).padStart(3, '0')}`,
      account: m.iban,
      currency: m.currency,
      from: m.from,
      to: m.to,
      opening,
      closing,
      lines: lines.map(l => l.line),
    },
    `${m.to}T22:00:00`,
  )
  await takeStatement(database, actor, Buffer.from(file), {
    name: `${m.to}-${m.currency}.xml`,
    propose: false,
  })
  const rows = await loadLines(database, `l.state = 'open' AND l.currency = :currency ORDER BY l.id`, {
    currency: m.currency,
  })
  const byReference = new Map(lines.map(l => [l.line.bankReference, l.said]))
  const done = await applyLines(
    database,
    actor,
    rows.map(({ id, version, bankReference }) => ({ id, version, ...byReference.get(bankReference)! })),
    false,
  )
  if (done.held) throw new Error(`${done.held} lines of ${m.to} ${m.currency} could not be settled`)
}

function lastWorkingDay(day: IsoDate): IsoDate {
  let d = day
  while (!isBankWorkingDay(d)) d = addDays(d, -1)
  return d
}

/** What the payers know of their invoices, as the ledger has them open now. */
async function payersOf(database: Handle, payers: readonly Payer[]) {
  const open = new Map(
    (
      await database.select<{ id: number; open: unknown }>(
        'SELECT item_id AS id, ABS(open) AS open FROM open_item',
      )
    ).map(r => [r.id, int(r.open)]),
  )
  const pulled = new Set(pulledOf(payers).map(p => p.number))
  return payers.map(p => ({
    isPulled: pulled.has(p.number),
    number: p.number,
    name: p.name,
    country: p.country,
    currency: p.currency,
    iban: p.payerIban,
    takesDiscount: p.habit === 'early',
    invoices: inRuns(
      p.invoices
        .filter(i => open.get(i.id))
        .map(i => ({
          number: i.number,
          open: open.get(i.id)!,
          amount: i.amount,
          date: i.date,
          due: i.due,
          discounts: i.discounts,
          // What was meant for a day that the bank told of before is paid soon after the Clock starts.
          payOn: i.payOn > HISTORY_TO ? i.payOn : addMonths(DEMO_TODAY, 1),
        })),
      Number(p.number) % 2 === 0 && p.habit !== 'early',
    ),
    credits: p.credits.filter(k => open.get(k.id)).map(k => ({ number: k.number, open: open.get(k.id)! })),
  }))
}

/**
 * Every second customer pays in runs: what falls into the two weeks after the first payment goes with it, in
 * one sum.
 */
function inRuns<T extends { payOn: IsoDate }>(invoices: T[], runs: boolean): T[] {
  if (!runs) return invoices
  let run = ''
  return [...invoices]
    .sort((a, b) => (a.payOn < b.payOn ? -1 : 1))
    .map(i => {
      if (!run || i.payOn > addDays(run, 14)) run = i.payOn
      return { ...i, payOn: run }
    })
}

/** The highest number of an invoice of this year. */
async function lastInvoice(database: Handle): Promise<string> {
  const [last] = await database.select<{ number: string }>(
    `SELECT number FROM item WHERE kind = 'invoice' AND number LIKE :year ORDER BY number DESC LIMIT 1`,
    { year: `${DEMO_TODAY.slice(2, 4)}-%` },
  )
  return last!.number
}

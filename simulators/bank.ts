import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { addDays, isBankWorkingDay, weekday, type IsoDate } from '../core/calendar'
import { writeCamt, type StatementLine } from '../formats/statements'
import type { Deposit } from '../server/ports/clock'
import { chance } from './chance'
import type { FactorPayment } from './factor'
import { issue, type Issued } from './invoicing'
import { takePayments, type PaymentMemory } from './payments'
import { paymentLines, type Delivered, type Payer, type Truth } from './payers'

/** What the simulated bank remembers. It lies beside the inbox and is never read by the application. */
export interface BankMemory extends PaymentMemory {
  /** How badly the payers refer; 1 is usual. */
  muddle: number
  deliveredTo: IsoDate
  accounts: { currency: string; iban: string; balance: number; number: number }[]
  payers: Payer[]
  /** Up to which day the house has invoiced; not told: it does not. */
  invoicedTo?: IsoDate
  /** The number of the last invoice that it sent, and those of the last days. */
  lastInvoice?: string
  issued?: Issued[]
  /** Slips that were credited already. */
  deposited?: string[]
  /** What is known to come: a cheque that bounced. */
  planned?: { currency: string; kind: Truth['kind']; how: string; line: StatementLine }[]
}

const memoryFile = (folder: string) => join(folder, 'outside', 'bank.json')
/** Written whole or not at all. */
function writeWhole(file: string, text: string): void {
  writeFileSync(`${file}.part`, text)
  renameSync(`${file}.part`, file)
}

/** Opens the simulated bank anew: nothing of an earlier world stays. */
export function setUpBank(folder: string, memory: BankMemory): void {
  for (const f of ['inbox', 'outbox', 'outside']) {
    rmSync(join(folder, f), { recursive: true, force: true })
    mkdirSync(join(folder, f), { recursive: true })
  }
  writeWhole(memoryFile(folder), JSON.stringify(memory))
}

export const readMemory = (folder: string): BankMemory =>
  JSON.parse(readFileSync(memoryFile(folder), 'utf8')) as BankMemory

export const hasBank = (folder: string): boolean => existsSync(memoryFile(folder))

export function truthOf(folder: string): Truth[] {
  return readdirSync(join(folder, 'outside'))
    .filter(f => f.startsWith('truth-'))
    .sort()
    .flatMap(f => JSON.parse(readFileSync(join(folder, 'outside', f), 'utf8')) as Truth[])
}

/**
 * Lets days pass up to one: payments, deposits, charges and returns come in, and a statement for each account
 * goes to the inbox. Answers the files.
 */
export function deliverUpTo(folder: string, day: IsoDate, deposits: readonly Deposit[]): string[] {
  const memory = readMemory(folder)
  if (day <= memory.deliveredTo) return []
  const from = memory.deliveredTo
  issue(memory, day)
  memory.planned = [...(memory.planned ?? []), ...takePayments(folder, memory, day)]
  const planned = (memory.planned ?? [])
    .filter(p => p.line.bookingDate > from && p.line.bookingDate <= day)
    .map(p => ({ line: p.line, currency: p.currency, truth: truth(p.line, p.kind, p.how) }))
  const delivered = [
    ...planned,
    // Whose money is pulled pays nothing by itself.
    ...paymentLines(
      memory.payers.filter(p => !p.isPulled),
      from,
      day,
      memory.seed,
      memory.muddle,
    ),
    ...deposited(
      deposits.filter(d => !(memory.deposited ?? []).includes(d.number)),
      from,
      day,
    ),
    ...bankOwn(memory, from, day, deposits),
  ]
  const files: string[] = []
  const truths: Truth[] = []
  for (const account of memory.accounts) {
    const own = delivered
      .filter(d => d.currency === account.currency)
      .sort((a, b) =>
        a.line.bookingDate < b.line.bookingDate ? -1 : a.line.bookingDate > b.line.bookingDate ? 1 : 0,
      )
    if (!own.length) continue
    account.number++
    const opening = account.balance
    account.balance += own.reduce((a, d) => a + d.line.amount, 0)
    const name = `${day}-${account.currency}.xml`
    writeWhole(
      join(folder, 'inbox', name),
      writeCamt(
        {
          format: 'camt.053',
          id: `${day.slice(0, 4)}-${account.currency}-${String(account.number).padStart(3, '0')}`,
          account: account.iban,
          currency: account.currency,
          from: addDays(from, 1),
          to: day,
          opening,
          closing: account.balance,
          lines: own.map(d => d.line),
        },
        `${day}T22:15:00`,
      ),
    )
    files.push(name)
    truths.push(...own.map(d => d.truth))
  }
  writeWhole(join(folder, 'outside', `truth-${day}.json`), JSON.stringify(truths, null, 1))
  memory.deliveredTo = day
  memory.deposited = [
    ...new Set([...(memory.deposited ?? []), ...deposits.filter(d => d.date <= day).map(d => d.number)]),
  ]
  writeWhole(memoryFile(folder), JSON.stringify(memory))
  return files
}

/** Invoices that are paid to somebody else from now on: their payers do not pay them to us. */
export function forgetInvoices(folder: string, numbers: readonly string[]): void {
  const gone = new Set(numbers)
  const memory = readMemory(folder)
  for (const payer of memory.payers) payer.invoices = payer.invoices.filter(i => !gone.has(i.number))
  writeWhole(memoryFile(folder), JSON.stringify(memory))
}

/** Money of a factor that is known to come. */
export function planPayments(
  folder: string,
  factor: { name: string; iban: string },
  payments: readonly FactorPayment[],
): void {
  if (!payments.length) return
  const memory = readMemory(folder)
  const planned = payments.map(({ date, currency, amount, text }) => ({
    currency,
    kind: 'ledger' as const,
    how: 'factor',
    line: {
      ...bare(date, amount, text, 'PMNT-RCDT-ESCT', `FA${date.replace(/-/g, '')}${text.replace(/\W/g, '')}`),
      name: factor.name.toUpperCase(),
      iban: factor.iban,
    },
  }))
  memory.planned = [...(memory.planned ?? []), ...planned]
  writeWhole(memoryFile(folder), JSON.stringify(memory))
}

const truth = (line: StatementLine, kind: Truth['kind'], how: string): Truth => ({
  bankReference: line.bankReference,
  kind,
  answerable: true,
  how,
  customer: '',
  allocations: [],
  credits: [],
  onAccount: 0,
})
export const bare = (
  bookingDate: IsoDate,
  amount: number,
  text: string,
  code: string,
  reference: string,
): StatementLine => ({
  bookingDate,
  valueDate: bookingDate,
  amount,
  name: '',
  iban: '',
  text,
  reference: '',
  endToEndId: '',
  bankReference: reference,
  code,
  returnReason: '',
})

function deposited(deposits: readonly Deposit[], after: IsoDate, upTo: IsoDate): Delivered[] {
  return deposits
    .filter(d => d.date <= upTo)
    .map(d => {
      const line = bare(
        d.date > after ? d.date : addDays(after, 1),
        d.total,
        `LODGEMENT ${d.number}`,
        'PMNT-CNTR-CDPT',
        `D${d.number}`,
      )
      return { line, currency: d.currency, truth: truth(line, 'slip', `slip ${d.number}`) }
    })
}

/** Charges, a supplier's refund, and now and then a cheque that comes back. */
function bankOwn(
  memory: BankMemory,
  after: IsoDate,
  upTo: IsoDate,
  deposits: readonly Deposit[],
): Delivered[] {
  const lines: Delivered[] = []
  const euro = memory.accounts[0]!.currency
  for (let day = addDays(after, 1); day <= upTo; day = addDays(day, 1)) {
    if (!isBankWorkingDay(day)) continue
    const c = chance(`${memory.seed} bank ${day}`)
    const reference = (n: string) => `${n}${day.replace(/-/g, '')}`
    const add = (line: StatementLine, kind: Truth['kind'], how: string) =>
      lines.push({ line, currency: euro, truth: truth(line, kind, how) })
    if (weekday(day) === 5)
      add(
        bare(day, -c.whole(900, 4200), 'BANK CHARGES WEEK', 'ACMT-MDOP-CHRG', reference('F')),
        'ledger',
        'charges',
      )
    if (c.happens(0.12))
      add(
        {
          ...bare(
            day,
            c.whole(3000, 60_000),
            `REFUND INV ${c.whole(100, 999)} OVERPAID`,
            'PMNT-RCDT-ESCT',
            reference('S'),
          ),
          name: c.pick(['CRATE AND PALLET HIRE', 'BALLYNORE CARTONS', 'TIDEWAY FREIGHT']),
          iban: 'IE12ZZZZ99000011112222',
        },
        'ledger',
        'supplier refund',
      )
    const cheque = deposits.filter(d => d.date < day && d.currency === euro).flatMap(d => d.cheques)
    if (cheque.length && c.happens(0.18)) {
      const back = c.pick(cheque)
      add(
        {
          ...bare(
            day,
            -back.amount,
            `UNPAID CHEQUE ${back.reference} REFER TO DRAWER`,
            'PMNT-RCHQ-UPCQ',
            reference('U'),
          ),
          returnReason: 'AM04',
        },
        'return',
        `cheque ${back.reference}`,
      )
    }
  }
  return lines
}

import { discountSteps, dueParts, isIsoDate, parseTerms, type IsoDate } from '../calendar'
import { refused } from '../ledger/rules'
import type { Decided, DocumentKind, LedgerState, Posting, Refusal } from '../ledger/types'
import { isCurrency, parseAmount } from '../money'
import { rateOf, rateRefusals } from '../rates'
import { postDocument } from './documents'

/**
 * A row of a table of documents, with the line it stands on. Cells are text; a column that is not there is
 * empty.
 */
export interface DocumentRow {
  line: number
  cells: Readonly<Record<string, string | undefined>>
}

export interface DocumentCustomer {
  id: number
  number: string
  currency: string
  terms: string
  /** No new documents from this day on; null while it is open. */
  closedOn?: IsoDate | null
}

export interface ImportState {
  ledger: LedgerState
  /** By number, as `sameNumber` writes it. */
  customers: ReadonlyMap<string, DocumentCustomer>
  /** Numbers of the document register that are taken, as `sameNumber` writes them. */
  taken: ReadonlySet<string>
}

export interface ImportFacts {
  /** Rows whose number is there already and that were left out. */
  skipped: number
  imported: readonly DocumentRow[]
}

const KINDS = ['invoice', 'credit-note', 'debit-note']
const COLUMN_OF: Record<string, string> = { parts: 'amount' }
const MAX_NUMBER = 48
const MAX_TEXT = [
  ['order', 48],
  ['text', 200],
] as const

const fault = (line: number, column: string, message: string): Refusal => ({
  rule: 'row',
  path: `line ${line}, ${column}`,
  line,
  column,
  message,
  satisfy: '',
})

/**
 * What makes two numbers one: capitals and accents count for nothing, as in the database
 * (utf8mb4_unicode_ci).
 */
export const sameNumber = (number: string): string =>
  number
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .replace(/ß/g, 'ss')
    .trimEnd()

/** Rows by number: present, short enough, once in the file, and not there already, refused or left out. */
export function freshRows<Row extends DocumentRow>(
  rows: readonly Row[],
  taken: ReadonlySet<string>,
  skipExisting: boolean,
  max: number,
  what: string,
): { fresh: Row[]; skipped: number; faults: Refusal[] } {
  const before = new Map<string, { line: number; number: string }>()
  const faults: Refusal[] = []
  let skipped = 0
  const fresh = rows.filter(({ line, cells }) => {
    const number = cells.number ?? ''
    const key = sameNumber(number)
    const twin = before.get(key)
    const say = (message: string) => faults.push(fault(line, 'number', message))
    if (!number) say('the number is missing')
    else if (number.length > max) say(`the number is longer than ${max} characters`)
    else if (twin)
      say(
        twin.number === number
          ? `${number} stands on line ${twin.line} already`
          : `${number} is the same number as ${twin.number} on line ${twin.line}`,
      )
    else if (taken.has(key) && !skipExisting)
      say(`${what} ${number} is there already: leave it out, or choose to skip what exists`)
    else if (taken.has(key)) skipped++
    before.set(key, twin ?? { line, number })
    return !taken.has(key)
  })
  return { fresh, skipped, faults }
}

/** All rows of a file as postings, or every fault of every row at once. */
export function decideImport(
  state: ImportState,
  rows: readonly DocumentRow[],
  skipExisting: boolean,
  opening = false,
): Decided<ImportFacts> {
  const { fresh, skipped, faults } = freshRows(rows, state.taken, skipExisting, MAX_NUMBER, 'document')
  const postings: Posting[] = []
  for (const row of fresh) {
    const customer = state.customers.get(sameNumber(row.cells.customer ?? ''))
    const one = documentOf(row, customer, state.ledger, opening)
    if (one.ok) postings.push(one.posting)
    else faults.push(...one.faults)
  }
  if (faults.length) return refused(faults.sort((a, b) => (a.line ?? 0) - (b.line ?? 0)))
  return { ok: true, postings, facts: { skipped, imported: fresh } }
}

/** One row into a Posting, or its faults. */
function documentOf(
  { line, cells }: DocumentRow,
  customer: DocumentCustomer | undefined,
  ledger: LedgerState,
  opening: boolean,
): { ok: true; posting: Posting } | { ok: false; faults: Refusal[] } {
  const faults: Refusal[] = []
  const say = (column: string, message: string) => faults.push(fault(line, column, message))
  const kind = (cells.kind || 'invoice').toLowerCase()
  if (!KINDS.includes(kind))
    say('kind', `"${cells.kind}" is not a kind: use invoice, credit-note or debit-note`)
  if (!customer)
    say(
      'customer',
      cells.customer
        ? `there is no customer ${cells.customer}: import the customer first`
        : 'the customer is missing',
    )
  if (customer?.closedOn)
    say(
      'customer',
      `the account of ${cells.customer} is closed since ${customer.closedOn}: open it again first`,
    )
  const currency = (cells.currency || customer?.currency || ledger.base).toUpperCase()
  if (!isCurrency(currency)) {
    say('currency', `"${cells.currency}" is not a currency: use the three letters of ISO 4217, such as EUR`)
    return { ok: false, faults }
  }
  const amountIn = (column: string): number => {
    try {
      return parseAmount(cells[column] ?? '', currency)
    } catch (error) {
      say(column, (error as Error).message)
      return 0
    }
  }
  for (const column of ['date', 'due_date', 'discount_date']) {
    const value = cells[column]
    if (value && !isIsoDate(value))
      say(column, `"${value}" is not a date: write YYYY-MM-DD, a day that exists`)
    if (!value && column === 'date') say(column, 'the date is missing')
  }
  const amount = amountIn('amount')
  if (amount === 0 && !faults.some(f => f.column === 'amount'))
    say('amount', 'the amount must be more than zero: write what the document is over')
  if (amount < 0) {
    const instead = kind === 'invoice' ? ' and use the kind credit-note for a credit' : ''
    say('amount', `the amount is negative: write it positive${instead}`)
  }
  const tax = cells.tax ? amountIn('tax') : 0
  for (const [column, max] of MAX_TEXT)
    if ((cells[column] ?? '').length > max) say(column, `longer than ${max} characters`)
  if (Boolean(cells.discount_date) !== Boolean(cells.discount_amount))
    say(
      cells.discount_date ? 'discount_amount' : 'discount_date',
      'a discount needs both a date and an amount',
    )
  if (faults.length || !customer) return { ok: false, faults }

  const date = cells.date!
  const terms = parseTerms(customer.terms)
  // A claim is due by the terms of its customer; a credit is there at once.
  const byTerms = kind === 'credit-note' ? [{ dueDate: date, amount }] : dueParts(terms, date, amount)
  const parts = cells.due_date ? [{ dueDate: cells.due_date, amount }] : byTerms
  let discounts = kind === 'invoice' ? discountSteps(terms, date, amount) : []
  if (cells.discount_date) {
    const given = { date: cells.discount_date, amount: amountIn('discount_amount') }
    discounts = [given]
    if (given.date < date) say('discount_date', 'the discount ends before the document date')
    if (given.amount <= 0 || given.amount >= amount)
      say('discount_amount', 'the discount must be more than zero and less than the amount')
  }
  for (const r of rateRefusals(ledger, currency, date, 'currency'))
    say('currency', `${r.message}: ${r.satisfy}`)
  if (faults.length) return { ok: false, faults }
  const decision = postDocument(ledger, {
    customerId: customer.id,
    kind: kind as DocumentKind,
    number: cells.number!,
    series: null,
    currency,
    amount,
    tax,
    documentDate: date,
    parts,
    discounts,
    rate: rateOf(ledger, currency, date)!,
    order: cells.order ?? '',
    text: cells.text ?? '',
    opening,
  })
  if (decision.ok) return decision
  for (const r of decision.refusals) say(COLUMN_OF[r.path] ?? r.path, `${r.message}: ${r.satisfy}`)
  return { ok: false, faults }
}

import countries from 'i18n-iso-countries'
import { isValidIBAN } from 'ibantools'
import type { Sequelize, Transaction } from 'sequelize'
import { z } from 'zod'
import { discountSteps, dueParts, isIsoDate, parseTerms } from '../../../core/calendar'
import { postDocument } from '../../../core/documents'
import { type DocumentKind, type LedgerState, type Posting } from '../../../core/ledger'
import { isCurrency, parseAmount } from '../../../core/money'
import { CUSTOMER_COLUMNS, DOCUMENT_COLUMNS, type ImportResult } from '../../../contract/documents'
import type { Fault } from '../../../contract/common'
import { CsvFault, readCsv, type CsvRow, type CsvTable } from '../../../formats/csv'
import { select } from '../../db/connection'
import { audit, readSettings } from '../../db/settings'
import { throughDoor } from '../../ledger/door'
import { loadState } from '../../ledger/load'
import { ProblemError } from '../common/problems'
import { rateCache } from '../rates/rates'

export interface ImportOptions {
  dryRun: boolean
  skipExisting: boolean
}
/** Called between steps; throws to stop, and then nothing of the import stays. */
export type Progress = (step: string, done: number, total: number) => Promise<void>
export const MAX_ROWS = 500_000
const CHUNK = 2000

/** Collects what is wrong, by line and column, so that every bad row is told at once. */
class Faults {
  readonly list: Fault[] = []
  readonly badLines = new Set<number>()
  add(line: number, column: string, message: string): void {
    this.badLines.add(line)
    this.list.push({ path: `line ${line}, ${column}`, line, column, message })
  }

  throwIfAny(): void {
    if (!this.list.length) return
    const n = this.badLines.size
    throw new ProblemError(
      422,
      'Nothing was imported',
      `${n} row${n === 1 ? ' is' : 's are'} wrong: mend ${n === 1 ? 'it' : 'them'} and import the file again`,
      this.list,
    )
  }
}

function readTable(
  text: string,
  columns: readonly string[],
  required: readonly string[],
): { table: CsvTable; unknownColumns: string[] } {
  let table: CsvTable
  try {
    table = readCsv(text)
  } catch (error) {
    if (!(error instanceof CsvFault)) throw error
    throw new ProblemError(422, 'Not a CSV table', `line ${error.line}: ${error.message}`, [
      { path: `line ${error.line}`, line: error.line, message: error.message },
    ])
  }
  const missing = required.filter(c => !table.header.includes(c))
  if (missing.length) {
    throw new ProblemError(
      422,
      'Columns are missing',
      `the header lacks ${missing.join(', ')}: the columns are ${columns.join(', ')}`,
      missing.map(c => ({ path: `line 1, ${c}`, line: 1, column: c, message: 'this column is missing' })),
    )
  }
  if (!table.rows.length)
    throw new ProblemError(422, 'No rows', 'the file has a header and no rows: add a row for each record')
  if (table.rows.length > MAX_ROWS)
    throw new ProblemError(
      413,
      'Too many rows',
      `at most ${MAX_ROWS} rows in one file, this one has ${table.rows.length}: split it`,
    )
  return { table, unknownColumns: table.header.filter(h => !columns.includes(h)) }
}

/** Which of these values stand in a column already. */
async function existing(
  database: Sequelize,
  sql: string,
  values: string[],
  tx?: Transaction,
): Promise<Set<string>> {
  const found = new Set<string>()
  for (let at = 0; at < values.length; at += 5000) {
    for (const row of await select<{ value: string }>(
      database,
      sql,
      { values: values.slice(at, at + 5000) },
      tx,
    ))
      found.add(row.value.toLowerCase())
  }
  return found
}

/**
 * Checks numbers: present, short enough, once in the file, and not there already (refused or skipped).
 * Answers the rows to import.
 */
function freshRows(
  rows: CsvRow[],
  taken: Set<string>,
  options: ImportOptions,
  faults: Faults,
  max: number,
  what: string,
): { fresh: CsvRow[]; skipped: number } {
  const lineOf = new Map<string, number>()
  let skipped = 0
  const fresh = rows.filter(({ line, cells }) => {
    const number = cells.number!
    const key = number.toLowerCase()
    if (!number) faults.add(line, 'number', 'the number is missing')
    else if (number.length > max) faults.add(line, 'number', `the number is longer than ${max} characters`)
    else if (lineOf.has(key))
      faults.add(line, 'number', `${number} stands on line ${lineOf.get(key)} already`)
    else if (taken.has(key) && !options.skipExisting)
      faults.add(
        line,
        'number',
        `${what} ${number} is there already: leave it out, or choose to skip what exists`,
      )
    else if (taken.has(key)) skipped++
    lineOf.set(key, lineOf.get(key) ?? line)
    return !taken.has(key)
  })
  return { fresh, skipped }
}

const emailForm = z.email()
const SAMPLE = 5

export async function importCustomers(
  database: Sequelize,
  personId: number,
  text: string,
  options: ImportOptions,
  progress: Progress,
): Promise<ImportResult> {
  await progress('Reading', 0, 0)
  const { table, unknownColumns } = readTable(text, CUSTOMER_COLUMNS, ['number', 'name', 'country'])
  const settings = await readSettings(database)
  const faults = new Faults()
  return database.transaction(async tx => {
    const taken = await existing(
      database,
      'SELECT number AS value FROM customer WHERE number IN (:values)',
      table.rows.map(r => r.cells.number!),
      tx,
    )
    const { fresh, skipped } = freshRows(table.rows, taken, options, faults, 32, 'customer')
    const classes = new Map(
      (
        await select<{ code: string; terms: string }>(
          database,
          'SELECT code, terms FROM customer_class',
          {},
          tx,
        )
      ).map(c => [c.code, c.terms]),
    )
    const inFile = new Map(fresh.map(r => [r.cells.number!.toLowerCase(), r]))
    const parentsWanted = [
      ...new Set(fresh.map(r => r.cells.parent ?? '').filter(p => p && !inFile.has(p.toLowerCase()))),
    ]
    const parentsThere = await existing(
      database,
      'SELECT number AS value FROM customer WHERE number IN (:values)',
      parentsWanted,
      tx,
    )
    const rows = fresh.map(({ line, cells }) => {
      const cell = (column: (typeof CUSTOMER_COLUMNS)[number], max: number) => {
        const value = cells[column] ?? ''
        if (value.length > max) faults.add(line, column, `longer than ${max} characters`)
        return value
      }
      const row = {
        number: cells.number!,
        name: cell('name', 160),
        class: cell('class', 24),
        country: cell('country', 9).toUpperCase(),
        language: cell('language', 9).toLowerCase() || 'en',
        currency: cell('currency', 9).toUpperCase() || settings.base,
        terms: cell('terms', 80) || classes.get(cells.class ?? '') || 'net 30',
        credit_limit: null as number | null,
        contact: cell('contact', 120),
        email: cell('email', 190),
        phone: cell('phone', 40),
        iban: cell('iban', 60).replace(/\s/g, '').toUpperCase(),
        vat_number: cell('vat_number', 20),
        person_id: personId,
      }
      if (!row.name) faults.add(line, 'name', 'the name is missing')
      if (!countries.alpha2ToNumeric(row.country))
        faults.add(
          line,
          'country',
          `"${cells.country}" is not a country: use the two letters of ISO 3166, such as IE`,
        )
      if (!/^[a-z]{2}$/.test(row.language))
        faults.add(
          line,
          'language',
          `"${cells.language}" is not a language: use the two letters of ISO 639, such as en`,
        )
      if (!isCurrency(row.currency))
        faults.add(
          line,
          'currency',
          `"${cells.currency}" is not a currency: use the three letters of ISO 4217, such as EUR`,
        )
      try {
        parseTerms(row.terms)
      } catch (error) {
        faults.add(line, 'terms', (error as Error).message)
      }
      if (cells.credit_limit) {
        try {
          row.credit_limit = parseAmount(cells.credit_limit, settings.base)
        } catch (error) {
          faults.add(line, 'credit_limit', (error as Error).message)
        }
        if (row.credit_limit !== null && row.credit_limit < 0)
          faults.add(line, 'credit_limit', 'a limit cannot be less than zero: leave it empty for none')
      }
      if (row.email && !emailForm.safeParse(row.email).success)
        faults.add(line, 'email', `"${row.email}" is not an e-mail address`)
      if (row.iban && !isValidIBAN(row.iban))
        faults.add(line, 'iban', `"${cells.iban}" is not a valid IBAN: check its digits`)
      const parent = cells.parent ?? ''
      if (parent && !inFile.has(parent.toLowerCase()) && !parentsThere.has(parent.toLowerCase()))
        faults.add(line, 'parent', `customer ${parent} is neither here nor in this file`)
      if (parent && parent.toLowerCase() === row.number.toLowerCase())
        faults.add(line, 'parent', 'a customer cannot be its own parent')
      if (
        parent &&
        inFile.get(parent.toLowerCase())?.cells.parent &&
        parent.toLowerCase() !== row.number.toLowerCase()
      )
        faults.add(line, 'parent', `${parent} has a parent itself: a group has one level`)
      return row
    })
    faults.throwIfAny()
    if (!options.dryRun) {
      const missing = [...new Set(rows.map(r => r.class).filter(c => c && !classes.has(c)))]
      if (missing.length)
        await database.getQueryInterface().bulkInsert(
          'customer_class',
          missing.map(code => ({ code, name: code, terms: 'net 30', policy: 'standard' })),
          { transaction: tx },
        )
      for (let at = 0; at < rows.length; at += CHUNK) {
        await progress('Importing', at, rows.length)
        await database
          .getQueryInterface()
          .bulkInsert('customer', rows.slice(at, at + CHUNK), { transaction: tx })
      }
      const children = fresh.filter(r => r.cells.parent)
      for (const { cells } of children) {
        await database.query(
          `UPDATE customer c JOIN customer p ON p.number = :parent SET c.parent_id = p.id
            WHERE c.number = :number`,
          { replacements: { parent: cells.parent, number: cells.number }, transaction: tx },
        )
      }
      await audit(
        database,
        personId,
        'import',
        'customers',
        null,
        JSON.stringify({ imported: rows.length, skipped }),
        tx,
      )
      await progress('Saving', rows.length, rows.length)
    }
    return {
      dryRun: options.dryRun,
      rows: table.rows.length,
      imported: rows.length,
      updated: 0,
      skipped,
      unknownColumns,
      totals: [],
      sample: fresh.slice(0, SAMPLE).map(r => r.cells),
    }
  })
}

const KINDS = ['invoice', 'credit-note', 'debit-note']
const COLUMN_OF: Record<string, string> = { parts: 'amount' }
interface DocumentCustomer {
  id: number
  number: string
  currency: string
  terms: string
}

async function customersOf(database: Sequelize, numbers: string[]): Promise<Map<string, DocumentCustomer>> {
  const customers = new Map<string, DocumentCustomer>()
  for (let at = 0; at < numbers.length; at += 5000) {
    for (const c of await select<DocumentCustomer>(
      database,
      'SELECT id, number, currency, terms FROM customer WHERE number IN (:numbers)',
      { numbers: numbers.slice(at, at + 5000) },
    ))
      customers.set(c.number.toLowerCase(), c)
  }
  return customers
}

/** One row into a Posting, or its faults. */
async function documentPosting(
  row: CsvRow,
  customer: DocumentCustomer | undefined,
  state: LedgerState,
  rate: ReturnType<typeof rateCache>,
  faults: Faults,
): Promise<Posting | null> {
  const { line, cells } = row
  const before = faults.list.length
  const kind = (cells.kind || 'invoice').toLowerCase()
  if (!KINDS.includes(kind))
    faults.add(line, 'kind', `"${cells.kind}" is not a kind: use invoice, credit-note or debit-note`)
  if (!customer)
    faults.add(
      line,
      'customer',
      cells.customer
        ? `there is no customer ${cells.customer}: import the customer first`
        : 'the customer is missing',
    )
  const currency = (cells.currency || customer?.currency || state.base).toUpperCase()
  if (!isCurrency(currency)) {
    faults.add(
      line,
      'currency',
      `"${cells.currency}" is not a currency: use the three letters of ISO 4217, such as EUR`,
    )
    return null
  }
  const amountIn = (column: string, text: string): number => {
    try {
      return parseAmount(text, currency)
    } catch (error) {
      faults.add(line, column, (error as Error).message)
      return 0
    }
  }
  for (const column of ['date', 'due_date', 'discount_date']) {
    const value = cells[column]
    if (value ? !isIsoDate(value) : column === 'date')
      faults.add(
        line,
        column,
        value ? `"${value}" is not a date: write YYYY-MM-DD, a day that exists` : 'the date is missing',
      )
  }
  const amount = amountIn('amount', cells.amount!)
  if (amount < 0)
    faults.add(
      line,
      'amount',
      `the amount is negative: write it positive${kind === 'invoice' ? ' and use the kind credit-note for a credit' : ''}`,
    )
  const tax = cells.tax ? amountIn('tax', cells.tax) : 0
  for (const [column, max] of [
    ['order', 48],
    ['text', 200],
  ] as const)
    if ((cells[column] ?? '').length > max) faults.add(line, column, `longer than ${max} characters`)
  if (Boolean(cells.discount_date) !== Boolean(cells.discount_amount)) {
    faults.add(
      line,
      cells.discount_date ? 'discount_amount' : 'discount_date',
      'a discount needs both a date and an amount',
    )
  }
  if (faults.list.length > before || !customer) return null

  const terms = parseTerms(customer.terms)
  const parts = cells.due_date
    ? [{ dueDate: cells.due_date, amount }]
    : kind === 'invoice'
      ? dueParts(terms, cells.date!, amount)
      : [{ dueDate: cells.date!, amount }]
  let discounts = kind === 'invoice' && parts.length === 1 ? discountSteps(terms, cells.date!, amount) : []
  if (cells.discount_date) {
    discounts = [{ date: cells.discount_date, amount: amountIn('discount_amount', cells.discount_amount!) }]
    if (discounts[0]!.date < cells.date!)
      faults.add(line, 'discount_date', 'the discount ends before the document date')
    if (discounts[0]!.amount <= 0 || discounts[0]!.amount >= amount)
      faults.add(line, 'discount_amount', 'the discount must be more than zero and less than the amount')
  }
  const rateText = await rate(currency, cells.date!)
  if (rateText === undefined)
    faults.add(line, 'currency', `there is no exchange rate for ${currency} on ${cells.date}`)
  if (faults.list.length > before) return null
  const decision = postDocument(state, {
    customerId: customer.id,
    kind: kind as DocumentKind,
    number: cells.number!,
    series: null,
    currency,
    amount,
    tax,
    documentDate: cells.date!,
    parts,
    discounts,
    rate: rateText!,
    order: cells.order ?? '',
    text: cells.text ?? '',
  })
  if (decision.ok) return decision.posting
  for (const r of decision.refusals)
    faults.add(line, COLUMN_OF[r.path] ?? r.path, `${r.message}: ${r.satisfy}`)
  return null
}

export async function importDocuments(
  database: Sequelize,
  personId: number,
  text: string,
  options: ImportOptions,
  progress: Progress,
): Promise<ImportResult> {
  await progress('Reading', 0, 0)
  const { table, unknownColumns } = readTable(text, DOCUMENT_COLUMNS, [
    'number',
    'customer',
    'date',
    'amount',
  ])
  const faults = new Faults()
  const customers = await customersOf(database, [...new Set(table.rows.map(r => r.cells.customer!))])
  const taken = await existing(
    database,
    `SELECT number AS value FROM item WHERE register = 'document' AND number IN (:values)`,
    table.rows.map(r => r.cells.number!),
  )
  const { fresh, skipped } = freshRows(table.rows, taken, options, faults, 48, 'document')
  const rate = rateCache(database, (await readSettings(database)).base)
  const state = await loadState(database, { customerIds: [] })
  const postings: Posting[] = []
  for (const [i, row] of fresh.entries()) {
    if (i % CHUNK === 0) await progress('Checking', i, fresh.length)
    const posting = await documentPosting(
      row,
      customers.get(row.cells.customer!.toLowerCase()),
      state,
      rate,
      faults,
    )
    if (posting) postings.push(posting)
  }
  faults.throwIfAny()

  const totals = new Map<string, { currency: string; debit: number; credit: number }>()
  for (const item of postings.flatMap(p => p.items)) {
    const total = totals.get(item.currency) ?? { currency: item.currency, debit: 0, credit: 0 }
    total[item.side] += item.amount
    totals.set(item.currency, total)
  }
  if (!options.dryRun && postings.length) {
    await throughDoor(
      database,
      { customerIds: [...new Set(postings.map(p => p.items[0]!.customerId))], personId },
      async door => {
        for (let at = 0; at < postings.length; at += CHUNK) {
          await progress('Importing', at, postings.length)
          await door.write(postings.slice(at, at + CHUNK))
        }
        await audit(
          database,
          personId,
          'import',
          'documents',
          null,
          JSON.stringify({ imported: postings.length, skipped }),
          door.tx,
        )
        await progress('Saving', postings.length, postings.length)
      },
    )
  }
  return {
    dryRun: options.dryRun,
    rows: table.rows.length,
    imported: postings.length,
    updated: 0,
    skipped,
    unknownColumns,
    totals: [...totals.values()].sort((a, b) => (a.currency < b.currency ? -1 : 1)),
    sample: fresh.slice(0, SAMPLE).map(r => r.cells),
  }
}

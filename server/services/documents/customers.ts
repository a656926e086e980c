import countries from 'i18n-iso-countries'
import { isValidIBAN } from 'ibantools'
import { z } from 'zod'
import { parseTerms } from '../../../core/calendar'
import { freshRows, sameNumber } from '../../../core/documents'
import type { Refusal } from '../../../core/ledger'
import { isCurrency, parseAmount, toMajor } from '../../../core/money'
import { CUSTOMER_COLUMNS, type ImportResult } from '../../../contract/documents'
import type { Handle } from '../../db/handle'
import { audit, changes, readSettings } from '../../db/settings'
import type { By } from '../../ledger/command'
import { requireAbility } from '../../ledger/rights'
import { existing, nothingImported, readTable, sampleOf, type ImportOptions, type Progress } from './table'

const emailForm = z.email()
const CHUNK = 2000
/** So many changes are shown. */
const SHOWN_CHANGES = 200

type Cells = Readonly<Record<string, string | undefined>>
interface Row {
  line: number
  cells: Cells
}
type Say = (line: number, column: string, message: string) => void

/** What a customer is written with; the columns of its table. */
interface CustomerRow {
  number: string
  name: string
  class: string
  street: string
  postcode: string
  city: string
  country: string
  language: string
  currency: string
  terms: string
  credit_limit: number | null
  contact: string
  email: string
  phone: string
  iban: string
  vat_number: string
}

/** Column → longest text. */
const LENGTHS: Partial<Record<(typeof CUSTOMER_COLUMNS)[number], number>> = {
  name: 160,
  class: 24,
  street: 160,
  postcode: 16,
  city: 80,
  country: 9,
  language: 9,
  currency: 9,
  terms: 80,
  contact: 120,
  email: 190,
  phone: 40,
  iban: 60,
  vat_number: 20,
}

interface Defaults {
  base: string
  terms: (customerClass: string) => string
}

/** One row as it is written, its faults told. */
function customerOf({ line, cells }: Row, { base, terms }: Defaults, say: Say): CustomerRow {
  const cell = (column: keyof typeof LENGTHS) => {
    const value = cells[column] ?? ''
    if (value.length > LENGTHS[column]!) say(line, column, `longer than ${LENGTHS[column]} characters`)
    return value
  }
  const row: CustomerRow = {
    number: cells.number!,
    name: cell('name'),
    class: cell('class'),
    street: cell('street'),
    postcode: cell('postcode'),
    city: cell('city'),
    country: cell('country').toUpperCase(),
    language: cell('language').toLowerCase() || 'en',
    currency: cell('currency').toUpperCase() || base,
    terms: cell('terms') || terms(cells.class ?? ''),
    credit_limit: limitIn(line, cells.credit_limit, base, say),
    contact: cell('contact'),
    email: cell('email'),
    phone: cell('phone'),
    iban: cell('iban').replace(/\s/g, '').toUpperCase(),
    vat_number: cell('vat_number'),
  }
  if (!row.name) say(line, 'name', 'the name is missing')
  if (!countries.alpha2ToNumeric(row.country))
    say(
      line,
      'country',
      `"${cells.country ?? ''}" is not a country: use the two letters of ISO 3166, such as IE`,
    )
  if (!/^[a-z]{2}$/.test(row.language))
    say(line, 'language', `"${cells.language}" is not a language: use the two letters of ISO 639, such as en`)
  if (!isCurrency(row.currency))
    say(
      line,
      'currency',
      `"${cells.currency}" is not a currency: use the three letters of ISO 4217, such as EUR`,
    )
  try {
    parseTerms(row.terms)
  } catch (error) {
    say(line, 'terms', (error as Error).message)
  }
  if (row.email && !emailForm.safeParse(row.email).success)
    say(line, 'email', `"${row.email}" is not an e-mail address`)
  if (row.iban && !isValidIBAN(row.iban))
    say(line, 'iban', `"${cells.iban}" is not a valid IBAN: check its digits`)
  return row
}

function limitIn(line: number, text: string | undefined, base: string, say: Say): number | null {
  if (!text) return null
  try {
    const limit = parseAmount(text, base)
    if (limit < 0) say(line, 'credit_limit', 'a limit cannot be less than zero: leave it empty for none')
    return limit
  } catch (error) {
    say(line, 'credit_limit', (error as Error).message)
    return null
  }
}

/** Groups have one level: a parent is there, is not itself, and has none. */
async function checkParents(tx: Handle, rows: readonly Row[], say: Say): Promise<void> {
  const inFile = new Map(rows.map(r => [sameNumber(r.cells.number!), r]))
  const wanted = [
    ...new Set(rows.map(r => r.cells.parent ?? '').filter(p => p && !inFile.has(sameNumber(p)))),
  ]
  const there = await existing(tx, 'SELECT number AS value FROM customer WHERE number IN (:values)', wanted)
  const members = await existing(
    tx,
    'SELECT number AS value FROM customer WHERE number IN (:values) AND parent_id IS NOT NULL',
    wanted,
  )
  for (const { line, cells } of rows) {
    const parent = cells.parent ?? ''
    if (!parent) continue
    const key = sameNumber(parent)
    const own = inFile.get(key)
    if (key === sameNumber(cells.number!)) say(line, 'parent', 'a customer cannot be its own parent')
    else if (!own && !there.has(key))
      say(line, 'parent', `customer ${parent} is neither here nor in this file`)
    else if (own?.cells.parent || members.has(key))
      say(line, 'parent', `${parent} has a parent itself: a group has one level`)
  }
}

export async function importCustomers(
  database: Handle,
  actor: By,
  text: string,
  options: ImportOptions,
  progress: Progress,
): Promise<ImportResult> {
  requireAbility(actor, 'import')
  await progress('Reading', 0, 0)
  const required = options.update ? ['number'] : ['number', 'name', 'country']
  const { table, unknownColumns } = await readTable(text, CUSTOMER_COLUMNS, required)
  const { base } = await readSettings(database)
  const faults: Refusal[] = []
  const say: Say = (line, column, message) =>
    faults.push({ rule: 'row', path: `line ${line}, ${column}`, line, column, message, satisfy: '' })
  return database.transaction(async tx => {
    const taken = await existing(
      tx,
      'SELECT number AS value FROM customer WHERE number IN (:values)',
      table.rows.map(r => r.cells.number!),
    )
    const skip = options.skipExisting || Boolean(options.update)
    const numbers = freshRows(table.rows, taken, skip, 32, 'customer')
    faults.push(...numbers.faults)
    const { fresh } = numbers
    const classes = new Map(
      (await tx.select<{ code: string; terms: string }>('SELECT code, terms FROM customer_class')).map(c => [
        c.code,
        c.terms,
      ]),
    )
    const defaults = { base, terms: (code: string) => classes.get(code) ?? 'net 30' }
    const rows = fresh.map(r => customerOf(r, defaults, say))
    await checkParents(tx, fresh, say)
    const known = options.update ? table.rows.filter(r => taken.has(sameNumber(r.cells.number ?? ''))) : []
    const changed = await changesOf(tx, known, defaults, say)
    if (faults.length) throw nothingImported(faults.sort((a, b) => (a.line ?? 0) - (b.line ?? 0)))
    if (!options.dryRun) {
      const wanted = [...rows, ...changed.map(c => c.row)].map(r => r.class)
      const missing = [...new Set(wanted.filter(c => c && !classes.has(c)))]
      if (missing.length)
        await tx.insert(
          'customer_class',
          missing.map(code => ({ code, name: code, terms: 'net 30', policy: 'standard' })),
        )
      for (let at = 0; at < rows.length; at += CHUNK) {
        await progress('Importing', at, rows.length)
        await tx.insert(
          'customer',
          rows.slice(at, at + CHUNK).map(r => ({ ...r, person_id: actor.id })),
        )
      }
      for (const { cells } of fresh.filter(r => r.cells.parent))
        await tx.run(
          `UPDATE customer c JOIN customer p ON p.number = :parent SET c.parent_id = p.id
            WHERE c.number = :number`,
          { parent: cells.parent, number: cells.number },
        )
      await write(tx, actor, changed, progress)
      await changes(tx, 'customers')
      const told = { imported: rows.length, updated: changed.length, skipped: numbers.skipped }
      await audit(tx, actor.id, 'import', 'customers', null, JSON.stringify(told))
      await progress('Saving', rows.length, rows.length)
    }
    return {
      dryRun: options.dryRun,
      rows: table.rows.length,
      imported: rows.length,
      updated: changed.length,
      skipped: numbers.skipped - changed.length,
      unknownColumns,
      totals: [],
      sample: sampleOf(fresh),
      changes: changed.flatMap(c => c.fields).slice(0, SHOWN_CHANGES),
    }
  })
}

interface Changed {
  id: number
  row: CustomerRow
  fields: { number: string; field: string; before: string; after: string }[]
}

/** What may change; number and currency stay, the account is kept in it. */
const CHANGEABLE = [
  ...['name', 'class', 'street', 'postcode', 'city', 'country', 'language', 'terms', 'credit_limit'],
  ...['contact', 'email', 'phone', 'iban', 'vat_number'],
] as (keyof CustomerRow)[]

/** Where a file says otherwise of customers that are there; an empty cell leaves what is. */
async function changesOf(tx: Handle, rows: readonly Row[], defaults: Defaults, say: Say): Promise<Changed[]> {
  const changed: Changed[] = []
  for (let at = 0; at < rows.length; at += CHUNK) {
    const some = rows.slice(at, at + CHUNK)
    const there = await tx.select<CustomerRow & { id: number }>(
      `SELECT id, number, currency, ${CHANGEABLE.join(', ')} FROM customer WHERE number IN (:numbers)
        ORDER BY id FOR UPDATE`,
      { numbers: some.map(r => r.cells.number!) },
    )
    const byNumber = new Map(there.map(c => [sameNumber(c.number), c]))
    for (const { line, cells } of some) {
      const before = byNumber.get(sameNumber(cells.number!))!
      const limit = before.credit_limit === null ? '' : toMajor(Number(before.credit_limit), defaults.base)
      // What the file leaves empty is judged as it stands.
      const whole = Object.fromEntries(
        [...CHANGEABLE, 'currency' as const].map(field => [
          field,
          cells[field] || (field === 'credit_limit' ? limit : String(before[field] ?? '')),
        ]),
      )
      if (cells.currency && cells.currency.toUpperCase() !== before.currency)
        say(line, 'currency', `the account is kept in ${before.currency}: that stays as it is`)
      const row = customerOf({ line, cells: { ...whole, number: before.number } }, defaults, say)
      const shown = (value: string | number | null) =>
        typeof value === 'number' ? toMajor(value, defaults.base) : (value ?? '')
      const fields = CHANGEABLE.filter(f => cells[f] && String(row[f] ?? '') !== String(before[f] ?? '')).map(
        field => ({
          number: before.number,
          field,
          before: field === 'credit_limit' ? limit : String(before[field] ?? ''),
          after: shown(row[field]),
        }),
      )
      if (fields.length) changed.push({ id: before.id, row, fields })
    }
  }
  return changed
}

/** Each change with what was there before, in the trail. */
async function write(tx: Handle, actor: By, changed: readonly Changed[], progress: Progress): Promise<void> {
  for (const [n, { id, row, fields }] of changed.entries()) {
    if (n % 200 === 0) await progress('Changing', n, changed.length)
    const names = fields.map(f => f.field as keyof CustomerRow)
    await tx.run(
      `UPDATE customer SET ${names.map(f => `${f} = :${f}`).join(', ')}, version = version + 1 WHERE id = :id`,
      { ...row, id },
    )
    const told = (side: 'before' | 'after') =>
      JSON.stringify(Object.fromEntries(fields.map(f => [f.field, f[side]])))
    await audit(tx, actor.id, 'customer', row.number, told('before'), told('after'))
  }
}

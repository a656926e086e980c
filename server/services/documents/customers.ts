import countries from 'i18n-iso-countries'
import { isValidIBAN } from 'ibantools'
import { z } from 'zod'
import { parseTerms } from '../../../core/calendar'
import { freshRows, sameNumber } from '../../../core/documents'
import type { Refusal } from '../../../core/ledger'
import { isCurrency, parseAmount } from '../../../core/money'
import { CUSTOMER_COLUMNS, type ImportResult } from '../../../contract/documents'
import type { Handle } from '../../db/handle'
import { audit, changes, readSettings } from '../../db/settings'
import type { By } from '../../ledger/command'
import { requireAbility } from '../../ledger/rights'
import { existing, nothingImported, readTable, sampleOf, type ImportOptions, type Progress } from './table'

const emailForm = z.email()
const CHUNK = 2000

export async function importCustomers(
  database: Handle,
  actor: By,
  text: string,
  options: ImportOptions,
  progress: Progress,
): Promise<ImportResult> {
  requireAbility(actor, 'import')
  await progress('Reading', 0, 0)
  const { table, unknownColumns } = await readTable(text, CUSTOMER_COLUMNS, ['number', 'name', 'country'])
  const settings = await readSettings(database)
  const faults: Refusal[] = []
  const say = (line: number, column: string, message: string) =>
    faults.push({ rule: 'row', path: `line ${line}, ${column}`, line, column, message, satisfy: '' })
  return database.transaction(async tx => {
    const taken = await existing(
      tx,
      'SELECT number AS value FROM customer WHERE number IN (:values)',
      table.rows.map(r => r.cells.number!),
    )
    const {
      fresh,
      skipped,
      faults: numbers,
    } = freshRows(table.rows, taken, options.skipExisting, 32, 'customer')
    faults.push(...numbers)
    const classes = new Map(
      (await tx.select<{ code: string; terms: string }>('SELECT code, terms FROM customer_class')).map(c => [
        c.code,
        c.terms,
      ]),
    )
    const inFile = new Map(fresh.map(r => [sameNumber(r.cells.number!), r]))
    const parentsWanted = [
      ...new Set(fresh.map(r => r.cells.parent ?? '').filter(p => p && !inFile.has(sameNumber(p)))),
    ]
    const parentsThere = await existing(
      tx,
      'SELECT number AS value FROM customer WHERE number IN (:values)',
      parentsWanted,
    )
    const rows = fresh.map(({ line, cells }) => {
      const cell = (column: (typeof CUSTOMER_COLUMNS)[number], max: number) => {
        const value = cells[column] ?? ''
        if (value.length > max) say(line, column, `longer than ${max} characters`)
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
        person_id: actor.id,
      }
      if (!row.name) say(line, 'name', 'the name is missing')
      if (!countries.alpha2ToNumeric(row.country))
        say(
          line,
          'country',
          `"${cells.country}" is not a country: use the two letters of ISO 3166, such as IE`,
        )
      if (!/^[a-z]{2}$/.test(row.language))
        say(
          line,
          'language',
          `"${cells.language}" is not a language: use the two letters of ISO 639, such as en`,
        )
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
      if (cells.credit_limit) {
        try {
          row.credit_limit = parseAmount(cells.credit_limit, settings.base)
        } catch (error) {
          say(line, 'credit_limit', (error as Error).message)
        }
        if (row.credit_limit !== null && row.credit_limit < 0)
          say(line, 'credit_limit', 'a limit cannot be less than zero: leave it empty for none')
      }
      if (row.email && !emailForm.safeParse(row.email).success)
        say(line, 'email', `"${row.email}" is not an e-mail address`)
      if (row.iban && !isValidIBAN(row.iban))
        say(line, 'iban', `"${cells.iban}" is not a valid IBAN: check its digits`)
      const parent = cells.parent ?? ''
      if (parent && !inFile.has(sameNumber(parent)) && !parentsThere.has(sameNumber(parent)))
        say(line, 'parent', `customer ${parent} is neither here nor in this file`)
      if (parent && sameNumber(parent) === sameNumber(row.number))
        say(line, 'parent', 'a customer cannot be its own parent')
      if (
        parent &&
        inFile.get(sameNumber(parent))?.cells.parent &&
        sameNumber(parent) !== sameNumber(row.number)
      )
        say(line, 'parent', `${parent} has a parent itself: a group has one level`)
      return row
    })
    if (faults.length) throw nothingImported(faults)
    if (!options.dryRun) {
      const missing = [...new Set(rows.map(r => r.class).filter(c => c && !classes.has(c)))]
      if (missing.length)
        await tx.insert(
          'customer_class',
          missing.map(code => ({ code, name: code, terms: 'net 30', policy: 'standard' })),
        )
      for (let at = 0; at < rows.length; at += CHUNK) {
        await progress('Importing', at, rows.length)
        await tx.insert('customer', rows.slice(at, at + CHUNK))
      }
      await changes(tx, 'customers')
      const children = fresh.filter(r => r.cells.parent)
      for (const { cells } of children) {
        await tx.run(
          `UPDATE customer c JOIN customer p ON p.number = :parent SET c.parent_id = p.id
            WHERE c.number = :number`,
          { parent: cells.parent, number: cells.number },
        )
      }
      await audit(
        tx,
        actor.id,
        'import',
        'customers',
        null,
        JSON.stringify({ imported: rows.length, skipped }),
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
      sample: sampleOf(fresh),
    }
  })
}

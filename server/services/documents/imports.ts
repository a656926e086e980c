import { z } from 'zod'
import { decideImport, type DocumentCustomer } from '../../../core/documents'
import { DOCUMENT_COLUMNS, type ImportResult } from '../../../contract/documents'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, LedgerRefused, perform, wouldDecide, type By } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { existing, nothingImported, readTable, SAMPLE, type ImportOptions, type Progress } from './table'

export { importCustomers } from './customers'
export { MAX_ROWS, type ImportOptions, type Progress } from './table'

interface Input {
  text: string
  skipExisting: boolean
}

/** A file is read once, however often it is asked for on its way through the door. */
const tables = new WeakMap<Input, ReturnType<typeof readTable>>()

function tableOf(input: Input): ReturnType<typeof readTable> {
  const known = tables.get(input)
  if (known) return known
  const table = readTable(input.text, DOCUMENT_COLUMNS, ['number', 'customer', 'date', 'amount'])
  tables.set(input, table)
  return table
}

const CHUNK = 5000

async function customersOf(db: Handle, input: Input): Promise<Map<string, DocumentCustomer>> {
  const numbers = [...new Set(tableOf(input).table.rows.map(r => r.cells.customer!))]
  const customers = new Map<string, DocumentCustomer>()
  for (let at = 0; at < numbers.length; at += CHUNK) {
    const rows = await db.select<DocumentCustomer>(
      'SELECT id, number, currency, terms FROM customer WHERE number IN (:numbers)',
      { numbers: numbers.slice(at, at + CHUNK) },
    )
    for (const c of rows) customers.set(c.number.toLowerCase(), c)
  }
  return customers
}

/** A table of invoices, credit notes and debit notes: all of it, or nothing and every fault of it. */
const importCommand = (progress: Progress) =>
  command({
    name: 'documents.import',
    ability: 'import',
    input: z.object({ text: z.string(), skipExisting: z.boolean() }),
    steady: true,
    locks: async (db, input) => ({
      customers: [...(await customersOf(db, input)).values()].map(c => c.id),
    }),
    load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
      const { rows } = tableOf(input).table
      await progress('Checking', 0, rows.length)
      const customers = await customersOf(db, input)
      const taken = await existing(
        db,
        `SELECT number AS value FROM item WHERE register = 'document' AND number IN (:values)`,
        rows.map(r => r.cells.number!),
      )
      const rates = rows.flatMap(({ cells }) => {
        const currency = cells.currency || customers.get((cells.customer ?? '').toLowerCase())?.currency
        return currency && cells.date ? [{ currency: currency.toUpperCase(), date: cells.date }] : []
      })
      return { customers, taken, ledger: await loadState(db, { customerIds: [], rates }, settings) }
    },
    decide: (state, input) => decideImport(state, tableOf(input).table.rows, input.skipExisting),
    after: async ({ postings, facts }) => {
      await progress('Saving', postings.length, postings.length)
      return facts
    },
    written: (done, total) => progress('Importing', done, total),
    tell: ({ facts }) => ({ imported: facts.imported.length, skipped: facts.skipped }),
    about: () => 'documents',
  })

export async function importDocuments(
  database: Handle,
  personId: number,
  text: string,
  options: ImportOptions,
  progress: Progress,
): Promise<ImportResult> {
  await progress('Reading', 0, 0)
  const by: By = { id: personId, name: '', role: '' }
  const input = { text, skipExisting: options.skipExisting }
  const what = importCommand(progress)
  const { decided } = await wouldDecide(database, by, what, input)
  if (!decided.ok) throw nothingImported(decided.refusals)
  const { postings, facts } = decided
  if (!options.dryRun && postings.length) {
    try {
      await perform(database, by, what, input)
    } catch (error) {
      // What came in between: a number taken, a period closed.
      if (error instanceof LedgerRefused) throw nothingImported(error.refusals)
      throw error
    }
  }
  const totals = new Map<string, { currency: string; debit: number; credit: number }>()
  for (const item of postings.flatMap(p => p.items)) {
    const total = totals.get(item.currency) ?? { currency: item.currency, debit: 0, credit: 0 }
    total[item.side] += item.amount
    totals.set(item.currency, total)
  }
  const { table, unknownColumns } = tableOf(input)
  return {
    dryRun: options.dryRun,
    rows: table.rows.length,
    imported: postings.length,
    updated: 0,
    skipped: facts.skipped,
    unknownColumns,
    totals: [...totals.values()].sort((a, b) => (a.currency < b.currency ? -1 : 1)),
    sample: facts.imported.slice(0, SAMPLE).map(r => r.cells as Record<string, string>),
  }
}

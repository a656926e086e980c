import { cell } from '../../db/rows'
import { z } from 'zod'
import { KINDS } from '../../../core/ledger'
import { decideImport, sameNumber, type DocumentCustomer } from '../../../core/documents'
import { DOCUMENT_COLUMNS, type ImportResult } from '../../../contract/documents'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, LedgerRefused, perform, wouldDecide, type By } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { requireAbility } from '../../ledger/rights'
import { INHERITED, WITH_CLASS } from '../accounts/inherited'
import { existing, nothingImported, readTable, sampleOf, type ImportOptions, type Progress } from './table'

export { importCustomers } from './customers'
export { MAX_ROWS, type ImportOptions, type Progress } from './table'

type Rows = Awaited<ReturnType<typeof readTable>>['table']['rows']

/** A credit note gives money away: who may import invoices may not post one alone. */
const isCredit = (kind: string | undefined) =>
  KINDS[(kind ?? '').toLowerCase() as keyof typeof KINDS]?.side === 'credit'

const REQUIRED = ['number', 'customer', 'date', 'amount']
const CHUNK = 5000

const customersOfRow = z.object({
  id: cell.whole,
  number: cell.text,
  currency: cell.text,
  terms: cell.text,
  closedOn: cell.day.nullable().optional(),
})

async function customersOf(db: Handle, rows: Rows): Promise<Map<string, DocumentCustomer>> {
  const numbers = [...new Set(rows.map(r => r.cells.customer!))]
  const customers = new Map<string, DocumentCustomer>()
  for (let at = 0; at < numbers.length; at += CHUNK) {
    const rows = await db.rows(
      customersOfRow,
      `SELECT c.id, n.number, c.currency, ${INHERITED.terms} AS terms, c.closed_on AS closedOn
        FROM customer n JOIN customer c ON c.id = COALESCE(n.merged_into, n.id) ${WITH_CLASS}
        WHERE n.number IN (:numbers)`,
      { numbers: numbers.slice(at, at + CHUNK) },
    )
    for (const c of rows) customers.set(sameNumber(c.number), c)
  }
  return customers
}

/** A table of invoices, credit notes and debit notes: all of it, or nothing and every fault of it. */
const importCommand = (rows: Rows, progress: Progress) =>
  command({
    name: 'documents.import',
    ability: 'import',
    needs: () => (rows.some(r => isCredit(r.cells.kind)) ? [{ ability: 'credits.post', path: 'kind' }] : []),
    input: z.object({ skipExisting: z.boolean(), opening: z.boolean() }),
    locks: async db => ({
      customers: [...(await customersOf(db, rows)).values()].map(c => c.id),
    }),
    load: async (db, _input, { settings }: { settings: Settings; actor: By }) => {
      await progress('Checking', 0, rows.length)
      const customers = await customersOf(db, rows)
      const taken = await existing(
        db,
        `SELECT number AS value FROM item WHERE register = 'document' AND number IN (:values)`,
        rows.map(r => r.cells.number!),
      )
      const rates = rows.flatMap(({ cells }) => {
        const currency = cells.currency || customers.get(sameNumber(cells.customer ?? ''))?.currency
        return currency && cells.date ? [{ currency: currency.toUpperCase(), date: cells.date }] : []
      })
      return { customers, taken, ledger: await loadState(db, { customerIds: [], rates }, settings) }
    },
    decide: (state, input) => decideImport(state, rows, input.skipExisting, input.opening),
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
  by: By,
  text: string,
  options: ImportOptions,
  progress: Progress,
): Promise<ImportResult> {
  requireAbility(by, 'import')
  await progress('Reading', 0, 0)
  const { table, unknownColumns } = await readTable(text, DOCUMENT_COLUMNS, REQUIRED)
  const input = { skipExisting: options.skipExisting, opening: options.opening ?? false }
  const what = importCommand(table.rows, progress)
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
  return {
    dryRun: options.dryRun,
    rows: table.rows.length,
    imported: postings.length,
    updated: 0,
    waiting: 0,
    skipped: facts.skipped,
    unknownColumns,
    totals: [...totals.values()].sort((a, b) => (a.currency < b.currency ? -1 : 1)),
    sample: sampleOf(facts.imported),
    changes: [],
  }
}

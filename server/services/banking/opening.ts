import { cell } from '../../db/rows'
import { z } from 'zod'
import { decideOpening, type OpeningState } from '../../../core/banking'
import { id } from '../../../contract/common'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, LedgerRefused, perform } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { notFound } from '../common/problems'
import type { Actor } from '../people/scope'

const firstRow = z.object({
  name: cell.text,
  account: cell.text,
  currency: cell.text,
  opening: cell.whole.nullable(),
  date: cell.text,
  opened: cell.whole.nullable(),
})
type First = z.output<typeof firstRow>

/** A bank account with its first statement. */
async function firstOf(db: Handle, accountId: number): Promise<First | undefined> {
  const [first] = await db.rows(
    firstRow,
    `SELECT b.name, b.account, b.currency, s.opening, s.from_date AS date, b.opening_entry_id AS opened
      FROM bank_account b JOIN bank_statement s ON s.bank_account_id = b.id AND s.opening IS NOT NULL
      WHERE b.id = :accountId ORDER BY s.from_date, s.id LIMIT 1`,
    { accountId },
  )
  return first
}

const openCommandRow = z.object({
  amount: cell.sum,
})

/** The ledger account of a bank opens with the balance of its first statement, once. */
const openCommand = command({
  name: 'banking.open',
  ability: 'receipts.post',
  input: z.object({ id }),
  steady: true,
  // Two first statements at once: the second finds it opened.
  locks: async (_db, input) => ({ bankAccounts: [input.id] }),
  load: async (db, input, { settings }: { settings: Settings; actor: Actor }): Promise<OpeningState> => {
    const found = await firstOf(db, input.id)
    if (!found) throw notFound(`a statement with a balance of bank account ${input.id}`)
    const { opening, opened, ...first } = found
    const [holds] = await db.rows(
      openCommandRow,
      'SELECT COALESCE(SUM(amount), 0) AS amount FROM account_day WHERE account = :account AND currency = :currency',
      { account: first.account, currency: first.currency },
    )
    const rates = [{ currency: first.currency, date: first.date }]
    return {
      ...first,
      opening: opened === null ? Number(opening) : int(holds!.amount),
      holds: int(holds!.amount),
      ledger: await loadState(db, { customerIds: [], rates }, settings),
    }
  },
  decide: decideOpening,
  after: async ({ db, input, written }) => {
    const [entry] = written
    if (entry) await db.update('bank_account', { opening_entry_id: entry.entryId }, { id: input.id })
    return { id: input.id }
  },
  about: input => String(input.id),
})

/** Opens an account whose first statement came in. Answers why it could not be, in words. */
export async function openWithFirst(
  database: Handle,
  actor: Actor,
  accountId: number,
): Promise<string | null> {
  // A file without balances opens nothing.
  const first = await firstOf(database, accountId)
  if (!first?.opening || first.opened !== null) return null
  try {
    await perform(database, actor, openCommand, { id: accountId })
    return null
  } catch (error) {
    if (!(error instanceof LedgerRefused)) throw error
    const why = error.refusals.map(r => r.message).join('; ')
    return `${first.name}: the balance before its first statement was not posted, ${why}`
  }
}

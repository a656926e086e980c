import { z } from 'zod'
import { cell } from '../../db/rows'
import type { Handle } from '../../db/handle'
import type { Statement, StatementLine } from '../../../formats/statements'

/*
 * The same money is told up to three times: within the day (camt.052), by a notification (camt.054), and on
 * the statement (camt.053), there perhaps as one entry where the notification tells its payments. The bank's
 * reference of the entry (AcctSvcrRef) is the same in all; what has none cannot be told from the statement to
 * come, so it waits for it.
 */

const EARLY = ['camt.052', 'camt.054']

/** In SQL: statements that only announce. */
export const IS_EARLY = `IN (${EARLY.map(f => `'${f}'`).join(', ')})`

export const isEarly = (s: Statement): boolean => EARLY.includes(s.format)

/** Lines that are taken from a file, and how many are left for the statement. */
export function tellable(s: Statement): { lines: StatementLine[]; waiting: number } {
  if (!isEarly(s)) return { lines: s.lines, waiting: 0 }
  const lines = s.lines.filter(l => l.entryReference)
  return { lines, waiting: s.lines.length - lines.length }
}

const toldRow = z.object({
  id: cell.whole,
  entryReference: cell.text,
  amount: cell.whole,
  format: cell.word<Statement['format']>(),
})
/**
 * Entries of a file that another kind of message told before: by the bank's reference, when both make the
 * same sum. Answers the references, and the lines that the statement confirms.
 */
export async function toldBefore(
  tx: Handle,
  accountId: number,
  s: Statement,
  lines: readonly StatementLine[],
): Promise<{ references: Set<string>; confirmed: number[] }> {
  const sums = new Map<string, number>()
  for (const l of lines)
    if (l.entryReference) sums.set(l.entryReference, (sums.get(l.entryReference) ?? 0) + l.amount)
  const references = new Set<string>()
  const confirmed: number[] = []
  const asked = [...sums.keys()]
  for (let at = 0; at < asked.length; at += 2000) {
    const told = await tx.rows(
      toldRow,
      `SELECT l.id, l.entry_reference AS entryReference, l.amount, s.format FROM bank_line l
        JOIN bank_statement s ON s.id = l.statement_id
        WHERE l.bank_account_id = :accountId AND l.entry_reference IN (:asked) AND s.format <> :format
        AND (s.format ${IS_EARLY} OR :format ${IS_EARLY})`,
      { accountId, asked: asked.slice(at, at + 2000), format: s.format },
    )
    for (const reference of new Set(told.map(t => t.entryReference))) {
      const own = told.filter(t => t.entryReference === reference)
      if (own.reduce((sum, t) => sum + Number(t.amount), 0) !== sums.get(reference)) continue
      references.add(reference)
      if (!isEarly(s)) confirmed.push(...own.map(t => t.id))
    }
  }
  return { references, confirmed }
}

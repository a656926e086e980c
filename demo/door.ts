import { z } from 'zod'
import type { IsoDate } from '../core/calendar'
import { type Decision, type LedgerState, type Posting } from '../core/ledger'
import type { Handle } from '../server/db/handle'
import type { Settings } from '../server/db/settings'
import { command, LedgerRefused, perform, type By } from '../server/ledger/command'
import { loadState } from '../server/ledger/load'
import type { Written } from '../server/ledger/write'

export function posted(decision: Decision): Posting {
  if (!decision.ok) throw new LedgerRefused(decision.refusals)
  return decision.posting
}

/**
 * A day of the demo through the same door as a user: what `make` draws from the ledger of that day is posted.
 */
export async function postingsOf(
  database: Handle,
  by: By,
  on: { day: IsoDate; customerIds: number[]; itemIds: number[] },
  make: (ledger: LedgerState) => Posting[],
): Promise<{ postings: readonly Posting[]; written: readonly Written[] }> {
  const { day, customerIds, itemIds } = on
  let done: { postings: readonly Posting[]; written: readonly Written[] } = { postings: [], written: [] }
  const passage = command({
    name: 'demo.day',
    ability: 'receipts.post',
    input: z.object({ day: z.string() }),
    steady: true,
    locks: async () => ({ customers: customerIds }),
    load: async (db, _input, { settings }: { settings: Settings; actor: By }) => {
      const ledger = await loadState(db, { customerIds, itemIds }, settings)
      return { ledger: { ...ledger, today: day } }
    },
    decide: ({ ledger }) => ({ ok: true, postings: make(ledger), facts: null }),
    after: async ({ postings, written }) => {
      done = { postings, written }
      return null
    },
    about: input => input.day,
  })
  await perform(database, by, passage, { day })
  return done
}

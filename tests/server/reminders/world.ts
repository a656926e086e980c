import { itemsQuery } from '../../../contract/accounts'
import { reminders } from '../../../contract/reminders'
import type { Handle } from '../../../server/db/handle'
import { LedgerRefused } from '../../../server/ledger/command'
import { readItems } from '../../../server/services/accounts/items'
import { listLeftOut, listNotices } from '../../../server/services/reminders/lines'

/** All notices of a run, and all that it leaves out. */
export const noticesOf = async (db: Handle, id: number) =>
  (await listNotices(db, id, reminders.notices.query!.parse({ limit: 200 }))).items
export const leftOutOf = async (db: Handle, id: number) =>
  (await listLeftOut(db, id, reminders.leftOut.query!.parse({ limit: 200 }))).items

/** The rule that refused it, else what was said; `done` when it was not refused. */
export const rule = (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'done',
    (e: unknown) => (e instanceof LedgerRefused ? e.refusals[0]!.rule : (e as Error).message),
  )

/** Open items of an account, by due date. */
export const openItems = async (db: Handle, number: string) =>
  (await readItems(db, number, itemsQuery.parse({ sort: 'due', limit: 50 }), {})).items

import { reminders } from '../../../contract/reminders'
import type { Handle } from '../../../server/db/handle'
import { listLeftOut, listNotices } from '../../../server/services/reminders/lines'

/** All notices of a run, and all that it leaves out. */
export const noticesOf = async (db: Handle, id: number) =>
  (await listNotices(db, id, reminders.notices.query!.parse({ limit: 200 }))).items
export const leftOutOf = async (db: Handle, id: number) =>
  (await listLeftOut(db, id, reminders.leftOut.query!.parse({ limit: 200 }))).items

import { openDatabase } from '../db/connection'
import { reportJobTrouble, runNextJob } from '../services/jobs/jobs'
import { NoRoom, requireRoom } from '../db/room'
import { mailPort } from '../wiring'
import { sendNext } from '../services/outbox/outbox'

/** The worker thread: takes jobs and letters to send, one after another, until its process ends. */
const database = openDatabase(process.env.DATABASE_URL!, 4)
const pause = (ms: number) => new Promise(resolve => setTimeout(resolve, ms))

for (;;) {
  let busy = false
  try {
    requireRoom()
    busy = (await runNextJob(database)) || (await sendNext(database, mailPort()))
  } catch (error) {
    if (!(error instanceof NoRoom)) reportJobTrouble(error)
    await pause(2000)
  }
  if (!busy) await pause(150)
}

import { openDatabase } from '../db/connection'
import { reportJobTrouble, runNextJob } from '../services/jobs/jobs'
import { NoRoom, requireRoom } from '../db/room'
import { mailIn, mailPort } from '../wiring'
import { takeMail } from '../services/inbox/take'
import { sendNext } from '../services/outbox/outbox'
import { holdKeeper } from '../services/exposure/holdKeeper'
import { figureKeeper } from '../services/today/kept'
import { promiseKeeper } from '../services/promises/promises'
import { reviewKeeper } from '../services/review/model'
import { accessRules } from '../services/people/access'
import { tidySessions } from '../services/people/sessions'

/** The worker thread: takes jobs and letters to send, one after another, until its process ends. */
const database = openDatabase(process.env.DATABASE_URL!, 4)
const pause = (ms: number) => new Promise(resolve => setTimeout(resolve, ms))

/** Rows that let nobody in any more are cleared away now and then. */
const TIDY_MS = 3_600_000
let tidied = 0
const keepPromises = promiseKeeper(database)
const keepHolds = holdKeeper(database)
const keepFigures = figureKeeper(database)
const keepReview = reviewKeeper(database)

for (;;) {
  let busy = false
  try {
    if (Date.now() - tidied > TIDY_MS) {
      tidied = Date.now()
      await tidySessions(database, await accessRules(database))
    }
    requireRoom()
    await keepPromises()
    await keepHolds()
    busy = await runNextJob(database)
    // What somebody waits for comes first, letters can wait a moment.
    if (!busy) {
      await keepFigures()
      await keepReview()
      busy = await sendNext(database, mailPort())
      if (!busy) busy = (await takeMail(database, mailIn())) > 0
    }
  } catch (error) {
    if (!(error instanceof NoRoom)) reportJobTrouble(error)
    await pause(2000)
  }
  if (!busy) await pause(150)
}

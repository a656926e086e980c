import { openDatabase } from '../db/connection'
import { codeOf } from '../db/retry'
import { faultOf, log } from '../log'
import { portKeeper } from '../services/common/portFault'
import { reportJobTrouble, runNextJob } from '../services/jobs/jobs'
import { NoRoom, requireRoom } from '../db/room'
import { mailIn, mailPort } from '../wiring'
import { takeMail } from '../services/inbox/take'
import { sendNext } from '../services/outbox/outbox'
import { holdKeeper } from '../services/exposure/holdKeeper'
import { figureKeeper } from '../services/today/kept'
import { promiseKeeper } from '../services/promises/promises'
import { forecasterInThread, keepForecaster } from '../forecaster'
import { forecastKeeper } from '../services/forecast/tested'
import { scheduleKeeper } from '../services/reminders/schedule'
import { reviewKeeper } from '../services/review/model'
import { paymentKeeper } from '../services/payments/keeper'
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
const keepSchedule = scheduleKeeper(database)
const keepPayments = paymentKeeper(database)
keepForecaster(database, forecasterInThread())
const keepForecasts = forecastKeeper(database)

const mailbox = mailIn()
const noteMailbox = portKeeper(database, 'mail in')

/** Takes in what came; a mailbox that does not answer is told of and asked again later. */
async function takeIn(): Promise<boolean> {
  try {
    const taken = await takeMail(database, mailbox)
    if (taken !== null) await noteMailbox(null)
    return Boolean(taken)
  } catch (error) {
    if (codeOf(error)) throw error
    log.warn(faultOf(error), 'mail in')
    await noteMailbox((error as Error).message)
    return false
  }
}

/** Does `step` again and again; waits `idle` when there was nothing to do, longer when it failed. */
async function goOn(step: () => Promise<boolean>, idle: number): Promise<never> {
  for (;;) {
    let busy = false
    try {
      requireRoom()
      busy = await step()
    } catch (error) {
      if (!(error instanceof NoRoom)) reportJobTrouble(error)
      await pause(2000)
    }
    if (!busy) await pause(idle)
  }
}

async function jobs(): Promise<boolean> {
  if (Date.now() - tidied > TIDY_MS) {
    tidied = Date.now()
    await tidySessions(database, await accessRules(database))
  }
  await keepPromises()
  await keepHolds()
  if (await runNextJob(database)) return true
  await keepSchedule()
  await keepPayments()
  await keepFigures()
  await keepReview()
  await keepForecasts()
  return false
}

/** Mail goes beside the jobs: a server that is slow keeps nobody from working. */
const post = async () => (await sendNext(database, mailPort())) || (await takeIn())

// Somebody waits for a job; for a letter nobody does.
await Promise.all([goOn(jobs, 150), goOn(post, 400)])

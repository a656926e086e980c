import { remindersPdf, type ReminderLetter } from '../../server/letters/reminder'
import { changePolicy, policyOn } from '../../server/services/reminders/policies'
import { confirmLarge } from '../../server/services/reminders/confirm'
import { proposeRun, readRun } from '../../server/services/reminders/runs'
import { withdrawRun } from '../../server/services/reminders/withdraw'
import { workOut } from '../../server/services/reminders/workOut'
import { actor, database, small, TODAY } from './base'
import { tell } from './image'

const LETTERS = small ? 50 : 2000
const megabytes = () => Math.round(process.memoryUsage().rss / 1024 / 1024)
const seconds = (since: number) => (performance.now() - since) / 1000

/** Proposal, confirmation, letters and withdrawal of a run over all customers, with fees and interest. */
export async function reminderRun(): Promise<void> {
  const { code, validFrom: _, ...policy } = await policyOn(database, 'standard', TODAY)
  await changePolicy(database, 1, code, {
    ...policy,
    levels: policy.levels.map(l => ({ ...l, fee: { EUR: 500 }, interest: true })),
    interest: {
      convention: 'actual/365',
      percent: '9',
      reference: null,
      basis: { otherwise: 'floating', byCountry: {} },
      minimum: {},
    },
  })
  let most = 0
  const watch = setInterval(() => (most = Math.max(most, megabytes())), 200)
  const queued = () => Promise.resolve(0)
  const begun = performance.now()
  const { id } = await proposeRun(database, actor, { asOf: TODAY }, queued)
  await workOut(database, id)
  const run = await readRun(database, id)
  const { notices, leftOutLines } = run.totals
  const proposing = most
  tell(
    `Proposal: ${notices.toLocaleString('en')} notices, ${leftOutLines.toLocaleString('en')} lines left out`,
    `${seconds(begun).toFixed(1)} s (goal 20)`,
  )
  tell('Memory at most while it was proposed', `${proposing} MB (goal 1024)`)
  const confirming = performance.now()
  await confirmLarge(database, actor, { run: id, version: run.version }, () => Promise.resolve())
  tell('Confirmed: fees, interest, levels, letters', `${seconds(confirming).toFixed(0)} s (goal 180)`)
  const letters = await database.select<{ letter: string }>(
    'SELECT letter FROM notice WHERE run_id = :id ORDER BY id LIMIT :most',
    { id, most: LETTERS },
  )
  const drawing = performance.now()
  for (const { letter } of letters) await remindersPdf([JSON.parse(letter) as ReminderLetter])
  tell(`${letters.length.toLocaleString('en')} letters as PDF`, `${seconds(drawing).toFixed(0)} s (goal 120)`)
  const back = performance.now()
  const one = { keys: null, reason: 'bench', tell: false }
  if (small) {
    await withdrawRun(database, actor, id, one)
    tell('Withdrawn whole', `${seconds(back).toFixed(0)} s`)
  }
  clearInterval(watch)
  tell('Memory at most, with all that was posted in one transaction', `${most} MB`)
}

import type { Handle } from '../../db/handle'
import { readSettings, type Settings } from '../../db/settings'
import { accountsToRemind } from '../reminders/proposal'
import { reviewsDue } from '../review/review'

/*
 * Figures of the first screen that a large ledger cannot count while somebody waits: the worker counts them
 * when anything changed, and keeps them. A small ledger is counted at once, each time.
 */

/** Longer than this nobody waits for a count. */
const SLOW_MS = 60
const EVERY_MS = 10_000

const COUNTS = {
  'to remind': accountsToRemind,
  'to review': (database: Handle, settings: Settings) => reviewsDue(database, settings, {}),
}
type Counted = typeof COUNTS
type Value<Name extends keyof Counted> = Awaited<ReturnType<Counted[Name]>>

async function read<Name extends keyof Counted>(
  database: Handle,
  settings: Settings,
  name: Name,
): Promise<Value<Name>> {
  const [kept] = await database.find('kept_figure', { name, as_of: settings.today }, { columns: ['value'] })
  if (kept) return JSON.parse(kept.value) as Value<Name>
  return (await COUNTS[name](database, settings)) as Value<Name>
}

/** Accounts whose items have reached their next reminder. */
export const countToRemind = (database: Handle, settings: Settings) => read(database, settings, 'to remind')
/** Accounts that are to be reviewed now. */
export const countReviews = (database: Handle, settings: Settings) => read(database, settings, 'to review')

/** Counts one, and keeps it when that took longer than one waits. */
async function keep(database: Handle, settings: Settings, name: keyof Counted): Promise<void> {
  const started = performance.now()
  const value = await COUNTS[name](database, settings)
  const isSlow = performance.now() - started > SLOW_MS
  await database.run(
    isSlow
      ? 'REPLACE INTO kept_figure (name, as_of, value) VALUES (:name, :today, :value)'
      : 'DELETE FROM kept_figure WHERE name = :name',
    { name, today: settings.today, value: JSON.stringify(value) },
  )
}

/** Keeps the counts up, now and then, whenever anything changed. */
export function figureKeeper(database: Handle): () => Promise<void> {
  let looked = 0
  let seen = ''
  return async () => {
    if (Date.now() - looked < EVERY_MS) return
    looked = Date.now()
    const settings = await readSettings(database)
    const [row] = await database.select<Record<string, unknown>>(
      `SELECT (SELECT MAX(id) FROM entry) AS entry, (SELECT MAX(id) FROM notice) AS notice,
        (SELECT COUNT(*) FROM pause WHERE ended = 0) AS pauses, (SELECT MAX(at) FROM audit) AS changed,
        (SELECT MAX(id) FROM review_model) AS model`,
    )
    const now = JSON.stringify([row, settings.today, settings.versions.customers])
    if (now === seen) return
    for (const name of Object.keys(COUNTS) as (keyof Counted)[]) await keep(database, settings, name)
    seen = now
  }
}

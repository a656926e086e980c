import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { keepHolds } from './holds'

/** So often what rules hold is kept, at most, when anything changed: the history of holds is that exact. */
const EVERY_MS = 15_000

/** Keeps the history of holds up, now and then, whenever the books, customers or the day changed. */
export function holdKeeper(database: Handle): () => Promise<void> {
  let looked = 0
  let seen = ''
  return async () => {
    if (Date.now() - looked < EVERY_MS) return
    looked = Date.now()
    const settings = await readSettings(database)
    const [row] = await database.select<{ entry: number | null; order: string | null }>(
      'SELECT (SELECT MAX(id) FROM entry) AS entry, (SELECT MAX(at) FROM sales_order) AS `order`',
    )
    const now = JSON.stringify([
      row!.entry,
      row!.order,
      settings.today,
      settings.versions.customers,
      settings.holdRules,
    ])
    if (now === seen) return
    await keepHolds(database)
    seen = now
  }
}

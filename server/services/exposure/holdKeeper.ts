import { z } from 'zod'
import { cell } from '../../db/rows'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { keepHolds } from './holds'

/** So often what rules hold is kept, at most, when anything changed: the history of holds is that exact. */
const EVERY_MS = 15_000

const holdKeeperRow = z.object({
  entry: cell.whole.nullable(),
  order: cell.text.nullable(),
})

/** Keeps the history of holds up, now and then, whenever the books, customers or the day changed. */
export function holdKeeper(database: Handle): () => Promise<void> {
  let looked = 0
  let seen = ''
  return async () => {
    if (Date.now() - looked < EVERY_MS) return
    looked = Date.now()
    const settings = await readSettings(database)
    const [row] = await database.rows(
      holdKeeperRow,
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

import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { collectDue } from '../collections/collect'
import { giveSchedules } from '../factoring/offer'
import { deliverFiles } from './files'

/** So often it is looked whether anything was left halfway. */
const LOOK_MS = 15_000

/**
 * Hands over files that a crash left on their way, and posts once a day what the bank collects by then.
 */
export function paymentKeeper(database: Handle): () => Promise<void> {
  let looked = 0
  let day = ''
  return async () => {
    if (Date.now() - looked < LOOK_MS) return
    looked = Date.now()
    await deliverFiles(database)
    await giveSchedules(database)
    const { today } = await readSettings(database)
    if (today === day) return
    await collectDue(database)
    day = today
  }
}

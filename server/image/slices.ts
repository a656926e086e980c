import { LedgerImage, OpenNow } from '../../core/image'
import { chunksOf, type Handle } from '../db/handle'
import { addAccounts, readCustomers } from './feed'
import type { Books } from './image'
import type { Wanted } from './questions'

/** Customers that are read together, when the ledger is not in memory. */
const SLICE = 500

/** The books of some customers alone. */
export interface Slice extends Books {
  ids: readonly number[]
}

/** Small images of some customers at a time: bounded in memory, and the same questions answer from them. */
export async function* slicesOf(database: Handle, wanted: Wanted): AsyncGenerator<Slice> {
  const all = await readCustomers(database)
  const ids = wanted.ids ?? all.rows.map(c => c.id)
  for (const chunk of chunksOf(ids, SLICE)) {
    const ledger = new LedgerImage()
    await addAccounts(database, ledger, chunk)
    const now = new OpenNow(ledger)
    now.catchUp()
    yield { ledger, customers: all, openAt: now.at.bind(now), ids: chunk }
  }
}

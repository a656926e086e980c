import { z } from 'zod'
import { cell } from '../../db/rows'
import { Directory } from '../../../core/banking/matching'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'

interface Known {
  stamp: string
  directory: Directory
}

/** One for each pool; a change of the customers builds it anew. */
const known = new WeakMap<object, Known>()

const customerDirectoryRow = z.object({
  last: cell.sum,
})

/** The customers for the matching, as they are now. */
export async function customerDirectory(database: Handle, version: number): Promise<Directory> {
  const [now] = await database.rows(customerDirectoryRow, 'SELECT MAX(id) AS last FROM customer')
  const stamp = `${version} ${int(now!.last)}`
  const before = known.get(database.sequelize)
  if (before?.stamp === stamp) return before.directory
  const customers = await database.find(
    'customer',
    { merged_into: null },
    { columns: { id: 'id', number: 'number', name: 'name', iban: 'iban', parentId: 'parent_id' } },
  )
  const directory = new Directory(customers)
  known.set(database.sequelize, { stamp, directory })
  return directory
}

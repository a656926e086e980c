import { badDebts } from '~~/contract/badDebts'
import { listRecoverable } from '~~/server/services/badDebts/lists'

export default endpoint(badDebts.recoverable, async ({ database, query }) => ({
  items: await listRecoverable(database, query),
}))

import { impairment } from '~~/contract/impairment'
import { listRecoverable } from '~~/server/services/impairment/lists'

export default endpoint(impairment.recoverable, async ({ database, query }) => ({
  items: await listRecoverable(database, query),
}))

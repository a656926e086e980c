import { collections } from '~~/contract/collections'
import { discardRun } from '~~/server/services/collections/drop'

export default endpoint(collections.discard, ({ database, actor, params, body }) =>
  discardRun(database, actor, params.id, body),
)

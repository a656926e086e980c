import { collections } from '~~/contract/collections'
import { workReturn } from '~~/server/services/collections/rework'

export default endpoint(collections.work, ({ database, actor, params, body }) =>
  workReturn(database, actor, params.id, body.action),
)

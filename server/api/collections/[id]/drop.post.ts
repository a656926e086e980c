import { collections } from '~~/contract/collections'
import { dropCollection } from '~~/server/services/collections/drop'

export default endpoint(collections.drop, ({ database, actor, params, body }) =>
  dropCollection(database, actor, params.id, body.reason),
)

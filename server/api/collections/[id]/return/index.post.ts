import { collections } from '~~/contract/collections'
import { returnCollection } from '~~/server/services/collections/returns'

export default endpoint(collections.return, ({ database, actor, params, body, idempotency }) =>
  returnCollection(database, actor, params.id, body, idempotency),
)

import { collections } from '~~/contract/collections'
import { confirmCollection } from '~~/server/services/collections/confirm'

export default endpoint(collections.confirm, ({ database, actor, params, body, idempotency }) =>
  confirmCollection(database, actor, params.id, body.version, idempotency),
)

import { collections } from '~~/contract/collections'
import { proveCollection } from '~~/server/services/collections/confirm'

export default endpoint(collections.proof, ({ database, actor, params }) =>
  proveCollection(database, actor, params.id),
)

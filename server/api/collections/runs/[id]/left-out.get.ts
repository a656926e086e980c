import { collections } from '~~/contract/collections'
import { listLeftOut } from '~~/server/services/collections/lists'

export default endpoint(collections.leftOut, ({ database, params, query }) =>
  listLeftOut(database, params.id, query),
)

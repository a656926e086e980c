import { collections } from '~~/contract/collections'
import { listRunRows } from '~~/server/services/collections/lists'

export default endpoint(collections.rows, ({ database, params, query }) =>
  listRunRows(database, params.id, query),
)

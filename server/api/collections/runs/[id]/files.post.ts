import { collections } from '~~/contract/collections'
import { makeDebitFiles } from '~~/server/services/collections/files'

export default endpoint(collections.files, ({ database, actor, params, idempotency }) =>
  makeDebitFiles(database, actor, params.id, idempotency),
)

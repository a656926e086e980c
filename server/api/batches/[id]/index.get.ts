import { batches } from '~~/contract/batches'
import { readBatch } from '~~/server/services/batches'

export default endpoint(batches.detail, ({ database, actor, params }) =>
  readBatch(database, actor, params.id),
)

import { batches } from '~~/contract/batches'
import { addToBatch } from '~~/server/services/batches'

export default endpoint(batches.add, ({ database, actor, params, body }) =>
  addToBatch(database, actor, params.id, body),
)

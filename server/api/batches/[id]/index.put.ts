import { batches } from '~~/contract/batches'
import { changeBatch } from '~~/server/services/batches'

export default endpoint(batches.change, ({ database, actor, params, body }) =>
  changeBatch(database, actor, params.id, body),
)

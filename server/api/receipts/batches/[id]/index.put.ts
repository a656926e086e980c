import { batches } from '~~/contract/receipts/batches'
import { changeBatch } from '~~/server/services/receipts/batches'

export default endpoint(batches.change, ({ database, actor, params, body }) =>
  changeBatch(database, actor, params.id, body),
)

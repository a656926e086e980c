import { batches } from '~~/contract/batches'
import { editInBatch } from '~~/server/services/batches'

export default endpoint(batches.edit, ({ database, actor, params, body }) =>
  editInBatch(database, actor, params.id, params.receipt, body),
)

import { batches } from '~~/contract/receipts/batches'
import { editInBatch } from '~~/server/services/receipts/batches'

export default endpoint(batches.edit, ({ database, actor, params, body }) =>
  editInBatch(database, actor, params.id, params.receipt, body),
)

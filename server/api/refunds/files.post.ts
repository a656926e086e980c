import { refunds } from '~~/contract/refunds'
import { makeTransferFile } from '~~/server/services/refunds/files'

export default endpoint(refunds.file, ({ database, actor, body, idempotency }) =>
  makeTransferFile(database, actor, body, idempotency),
)

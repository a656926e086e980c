import { receipts } from '~~/contract/receipts'
import { putReceiptRight } from '~~/server/services/receipts/putRight'

export default endpoint(receipts.putRight, ({ database, actor, params, body, idempotency }) =>
  putReceiptRight(database, actor, params.id, body, idempotency),
)

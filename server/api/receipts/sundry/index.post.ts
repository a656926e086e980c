import { receipts } from '~~/contract/receipts'
import { receiveSundry } from '~~/server/services/receipts/sundry'

export default endpoint(receipts.postSundry, ({ database, actor, body, idempotency }) =>
  receiveSundry(database, actor, body, idempotency),
)

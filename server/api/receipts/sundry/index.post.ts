import { receipts } from '~~/contract/receipts'
import { receiveSundry } from '~~/server/services/sundry'

export default endpoint(receipts.postSundry, ({ database, actor, body, idempotency }) =>
  receiveSundry(database, actor, body, idempotency),
)

import { receipts } from '~~/contract/receipts'
import { postTicked } from '~~/server/services/receipts/ticked'

export default endpoint(receipts.postTicked, ({ database, actor, body, idempotency }) =>
  postTicked(database, actor, body, idempotency),
)

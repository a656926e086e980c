import { receipts } from '~~/contract/receipts'
import { postTicked } from '~~/server/services/receipts/tickSheet'

export default endpoint(receipts.postTicked, ({ database, actor, body, idempotency }) =>
  postTicked(database, actor, body, idempotency),
)

import { receipts } from '~~/contract/receipts'
import { intents, postIntent } from '~~/server/services/receipts/receipts'

export default endpoint(receipts.post, async ({ database, actor, body, idempotency }) =>
  postIntent(database, actor, await intents.receipt(database, body, actor), idempotency),
)

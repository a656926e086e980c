import { receipts } from '~~/contract/receipts'
import { intents, postIntent } from '~~/server/services/receipts/receipts'

export default endpoint(receipts.allocate, async ({ database, actor, body, idempotency }) =>
  postIntent(database, actor, await intents.allocate(database, body, actor), idempotency),
)

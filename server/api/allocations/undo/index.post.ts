import { receipts } from '~~/contract/receipts'
import { intents, postIntent } from '~~/server/services/receipts/receipts'

export default endpoint(receipts.unallocate, async ({ database, actor, body, idempotency }) =>
  postIntent(database, actor, await intents.unallocate(database, body), idempotency),
)

import { receipts } from '~~/contract/receipts'
import { intents, postIntent } from '~~/server/services/receipts/receipts'

export default endpoint(receipts.reverse, async ({ database, actor, params, body, idempotency }) =>
  postIntent(database, actor, await intents.reverse(database, params.id, body), idempotency),
)

import { receipts } from '~~/contract/receipts'
import { intents, proofOf } from '~~/server/services/receipts/receipts'

export default endpoint(receipts.preview, async ({ database, actor, body }) =>
  proofOf(database, await intents.receipt(database, body, actor)),
)

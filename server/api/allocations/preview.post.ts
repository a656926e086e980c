import { receipts } from '~~/contract/receipts'
import { intents, proofOf } from '~~/server/services/receipts/receipts'

export default endpoint(receipts.previewAllocate, async ({ database, actor, body }) =>
  proofOf(database, await intents.allocate(database, body, actor)),
)

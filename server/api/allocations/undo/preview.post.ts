import { receipts } from '~~/contract/receipts'
import { intents, proofOf } from '~~/server/services/receipts/receipts'

export default endpoint(receipts.previewUnallocate, async ({ database, body }) =>
  proofOf(database, await intents.unallocate(database, body)),
)

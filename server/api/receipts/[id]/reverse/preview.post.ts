import { receipts } from '~~/contract/receipts'
import { intents, proofOf } from '~~/server/services/receipts/receipts'

export default endpoint(receipts.previewReverse, async ({ database, params, body }) =>
  proofOf(database, await intents.reverse(database, params.id, body)),
)

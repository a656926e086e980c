import { receipts } from '~~/contract/receipts'
import { previewTicked } from '~~/server/services/receipts/ticked'

export default endpoint(receipts.previewTicked, ({ database, actor, body }) =>
  previewTicked(database, actor, body),
)

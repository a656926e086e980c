import { receipts } from '~~/contract/receipts'
import { previewPutRight } from '~~/server/services/receipts/putRight'

export default endpoint(receipts.previewPutRight, ({ database, actor, params, body }) =>
  previewPutRight(database, actor, params.id, body),
)

import { receipts } from '~~/contract/receipts'
import { prove } from '~~/server/services/books/proof'
import { putRightCommand } from '~~/server/services/receipts/putRight'

export default endpoint(receipts.previewPutRight, ({ database, actor, params, body }) =>
  prove(database, actor, putRightCommand, { ...body, itemId: params.id }),
)

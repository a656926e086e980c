import { receipts } from '~~/contract/receipts'
import { prove } from '~~/server/services/books/proof'
import { reverseCommand } from '~~/server/services/receipts/commands'

export default endpoint(receipts.previewReverse, ({ database, actor, params, body }) =>
  prove(database, actor, reverseCommand, { ...body, itemId: params.id }),
)

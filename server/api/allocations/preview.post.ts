import { receipts } from '~~/contract/receipts'
import { prove } from '~~/server/services/books/proof'
import { allocateCommand } from '~~/server/services/receipts/commands'

export default endpoint(receipts.previewAllocate, ({ database, actor, body }) =>
  prove(database, actor, allocateCommand, body),
)

import { receipts } from '~~/contract/receipts'
import { prove } from '~~/server/services/books/proof'
import { unallocateCommand } from '~~/server/services/receipts/commands'

export default endpoint(receipts.previewUnallocate, ({ database, actor, body }) =>
  prove(database, actor, unallocateCommand, body),
)

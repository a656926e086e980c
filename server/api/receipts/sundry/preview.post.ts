import { receipts } from '~~/contract/receipts'
import { prove } from '~~/server/services/books/proof'
import { sundryCommand } from '~~/server/services/receipts/sundry'

export default endpoint(receipts.previewSundry, ({ database, actor, body }) =>
  prove(database, actor, sundryCommand, body),
)

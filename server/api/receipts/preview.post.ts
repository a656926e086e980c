import { receipts } from '~~/contract/receipts'
import { prove } from '~~/server/services/books/proof'
import { receiveCommand } from '~~/server/services/receipts/commands'

export default endpoint(receipts.preview, ({ database, actor, body }) =>
  prove(database, actor, receiveCommand, body),
)

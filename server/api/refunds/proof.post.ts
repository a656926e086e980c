import { refunds } from '~~/contract/refunds'
import { prove } from '~~/server/services/books/proof'
import { refundCommand } from '~~/server/services/refunds/post'

export default endpoint(refunds.proof, ({ database, actor, body }) =>
  prove(database, actor, refundCommand, body),
)

import { refunds } from '~~/contract/refunds'
import { prove } from '~~/server/services/books/proof'
import { lapseCommand } from '~~/server/services/refunds/lapse'

export default endpoint(refunds.lapseProof, ({ database, actor, body }) =>
  prove(database, actor, lapseCommand, body),
)

import { banking } from '~~/contract/banking'
import { prove } from '~~/server/services/books/proof'
import { slipCommand } from '~~/server/services/banking/paying'

export default endpoint(banking.previewSlip, ({ database, actor, body }) =>
  prove(database, actor, slipCommand, body),
)

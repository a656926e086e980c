import { banking } from '~~/contract/banking'
import { prove } from '~~/server/services/books/proof'
import { slipVoidCommand } from '~~/server/services/banking/paying'

export default endpoint(banking.previewVoid, ({ database, actor, params, body }) =>
  prove(database, actor, slipVoidCommand, { ...body, id: params.id }),
)

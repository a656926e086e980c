import { disputes } from '~~/contract/disputes'
import { prove } from '~~/server/services/books/proof'
import { resolveCommand } from '~~/server/services/disputes/resolve'

export default endpoint(disputes.proof, ({ database, actor, params, body }) =>
  prove(database, actor, resolveCommand, { ...body, id: params.id }),
)

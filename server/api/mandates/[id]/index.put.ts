import { mandates } from '~~/contract/collections'
import { changeMandate } from '~~/server/services/collections/mandates'

export default endpoint(mandates.change, ({ database, actor, params, body }) =>
  changeMandate(database, actor, params.id, body),
)

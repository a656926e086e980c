import { mandates } from '~~/contract/collections'
import { setMandateState } from '~~/server/services/collections/mandates'

export default endpoint(mandates.setState, ({ database, actor, params, body }) =>
  setMandateState(database, actor, params.id, body),
)

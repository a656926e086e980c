import { factoring } from '~~/contract/factoring'
import { passOn } from '~~/server/services/factoring/close'

export default endpoint(factoring.passOn, ({ database, actor, body, idempotency }) =>
  passOn(database, actor, body, idempotency),
)

import { factoring } from '~~/contract/factoring'
import { closeShort } from '~~/server/services/factoring/close'

export default endpoint(factoring.short, ({ database, actor, body, idempotency }) =>
  closeShort(database, actor, body, idempotency),
)

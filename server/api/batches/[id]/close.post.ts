import { batches } from '~~/contract/batches'
import { closeBatch } from '~~/server/services/batches'

export default endpoint(batches.close, ({ database, actor, params, body, idempotency }) =>
  closeBatch(database, actor, params.id, body.version, idempotency),
)

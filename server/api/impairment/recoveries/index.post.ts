import { impairment } from '~~/contract/impairment'
import { postRecovery } from '~~/server/services/impairment/recovery'

export default endpoint(impairment.recover, ({ database, actor, body, idempotency }) =>
  postRecovery(database, actor, body, idempotency),
)

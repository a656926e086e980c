import { badDebts } from '~~/contract/badDebts'
import { postRecovery } from '~~/server/services/badDebts/recovery'

export default endpoint(badDebts.recover, ({ database, actor, body, idempotency }) =>
  postRecovery(database, actor, body, idempotency),
)

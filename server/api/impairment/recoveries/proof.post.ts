import { impairment } from '~~/contract/impairment'
import { proveRecovery } from '~~/server/services/impairment/recovery'

export default endpoint(impairment.recoveryProof, ({ database, actor, body }) =>
  proveRecovery(database, actor, body),
)

import { badDebts } from '~~/contract/badDebts'
import { proveRecovery } from '~~/server/services/badDebts/recovery'

export default endpoint(badDebts.recoveryProof, ({ database, actor, body }) =>
  proveRecovery(database, actor, body),
)

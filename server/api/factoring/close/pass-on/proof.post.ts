import { factoring } from '~~/contract/factoring'
import { provePassOn } from '~~/server/services/factoring/close'

export default endpoint(factoring.passOnProof, ({ database, actor, body }) =>
  provePassOn(database, actor, body),
)

import { factoring } from '~~/contract/factoring'
import { proveShort } from '~~/server/services/factoring/close'

export default endpoint(factoring.shortProof, ({ database, actor, body }) =>
  proveShort(database, actor, body),
)

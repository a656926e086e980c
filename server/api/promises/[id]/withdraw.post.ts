import { promises } from '~~/contract/promises'
import { withdrawPromise } from '~~/server/services/promises/promises'

export default endpoint(promises.withdraw, ({ database, actor, params, body }) =>
  withdrawPromise(database, actor, params.id, body.reason),
)

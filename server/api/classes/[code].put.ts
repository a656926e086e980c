import { setup } from '~~/contract/setup'
import { changeClass } from '~~/server/services/accounts/classes'

export default endpoint(setup.changeClass, ({ database, actor, params, body }) =>
  changeClass(database, actor, params.code, body),
)

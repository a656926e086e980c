import { accounts } from '~~/contract/accounts'
import { changeClass } from '~~/server/services/accounts/classes'

export default endpoint(accounts.changeClass, ({ database, actor, params, body }) =>
  changeClass(database, actor, params.code, body),
)

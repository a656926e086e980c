import { accounts } from '~~/contract/accounts'
import { changeCustomer } from '~~/server/services/accounts/master/change'

export default endpoint(accounts.change, ({ database, actor, params, body, scope }) =>
  changeCustomer(database, actor, params.number, body, scope),
)

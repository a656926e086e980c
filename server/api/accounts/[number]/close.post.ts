import { accounts } from '~~/contract/accounts'
import { closeCustomer } from '~~/server/services/accounts/master/close'

export default endpoint(accounts.close, ({ database, actor, params, body, scope }) =>
  closeCustomer(database, actor, params.number, body, scope),
)

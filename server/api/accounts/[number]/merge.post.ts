import { accounts } from '~~/contract/accounts'
import { mergeCustomers } from '~~/server/services/accounts/master/merge'

export default endpoint(accounts.merge, ({ database, actor, params, body }) =>
  mergeCustomers(database, actor, params.number, body),
)

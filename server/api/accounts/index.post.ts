import { accounts } from '~~/contract/accounts'
import { createCustomer } from '~~/server/services/accounts/master/change'

export default endpoint(accounts.create, ({ database, actor, body }) => createCustomer(database, actor, body))

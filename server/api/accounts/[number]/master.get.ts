import { accounts } from '~~/contract/accounts'
import { readMaster } from '~~/server/services/accounts/master/read'

export default endpoint(accounts.master, ({ database, params, scope }) =>
  readMaster(database, params.number, scope),
)

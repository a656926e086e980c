import { accounts } from '~~/contract/accounts'
import { listAccounts } from '~~/server/services/accounts/list'

export default endpoint(accounts.list, ({ database, query, scope }) => listAccounts(database, query, scope))

import { accounts } from '~~/contract/accounts'
import { readItems } from '~~/server/services/accounts/items'

export default endpoint(accounts.items, ({ database, params, query, scope }) =>
  readItems(database, params.number, query, scope),
)

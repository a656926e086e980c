import { accounts } from '~~/contract/accounts'
import { readCard } from '~~/server/services/accounts/accounts'

export default endpoint(accounts.card, ({ database, params, query, actor, scope }) =>
  readCard(database, params.number, query, actor, scope),
)

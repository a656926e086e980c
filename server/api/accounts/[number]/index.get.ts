import { accounts } from '~~/contract/accounts'
import { readCard } from '~~/server/services/accounts/card'

export default endpoint(accounts.card, ({ database, params, query, actor, scope }) =>
  readCard(database, params.number, query, actor, scope),
)

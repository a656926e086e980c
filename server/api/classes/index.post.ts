import { accounts } from '~~/contract/accounts'
import { createClass } from '~~/server/services/accounts/classes'

export default endpoint(accounts.createClass, ({ database, actor, body }) =>
  createClass(database, actor, body),
)

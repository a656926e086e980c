import { banking } from '~~/contract/banking'
import { changeBankAccount } from '~~/server/services/banking/accounts'

export default endpoint(banking.changeAccount, ({ database, actor, params, body }) =>
  changeBankAccount(database, actor.id, params.id, body),
)

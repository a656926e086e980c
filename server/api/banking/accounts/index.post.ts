import { banking } from '~~/contract/banking'
import { addBankAccount } from '~~/server/services/banking/accounts'

export default endpoint(banking.addAccount, ({ database, actor, body }) =>
  addBankAccount(database, actor.id, body),
)

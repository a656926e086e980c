import { bank } from '~~/contract/bank'
import { changeBankAccount } from '~~/server/services/bank/accounts'

export default endpoint(bank.changeAccount, ({ database, actor, params, body }) =>
  changeBankAccount(database, actor.id, params.id, body),
)

import { bank } from '~~/contract/bank'
import { addBankAccount } from '~~/server/services/bank/accounts'

export default endpoint(bank.addAccount, ({ database, actor, body }) =>
  addBankAccount(database, actor.id, body),
)

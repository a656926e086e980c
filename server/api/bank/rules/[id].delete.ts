import { bank } from '~~/contract/bank'
import { forget } from '~~/server/services/bank/rules'

export default endpoint(bank.dropRule, ({ database, actor, params }) =>
  forget(database, actor.id, 'ledger_rule', params.id),
)

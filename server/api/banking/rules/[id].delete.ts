import { banking } from '~~/contract/banking'
import { forget } from '~~/server/services/banking/rules'

export default endpoint(banking.dropRule, ({ database, actor, params }) =>
  forget(database, actor.id, 'ledger_rule', params.id),
)

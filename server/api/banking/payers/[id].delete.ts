import { banking } from '~~/contract/banking'
import { forget } from '~~/server/services/banking/rules'

export default endpoint(banking.dropPayer, ({ database, actor, params }) =>
  forget(database, actor.id, 'payer_learnt', params.id),
)

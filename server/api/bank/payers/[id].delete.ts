import { bank } from '~~/contract/bank'
import { forget } from '~~/server/services/bank/rules'

export default endpoint(bank.dropPayer, ({ database, actor, params }) =>
  forget(database, actor.id, 'payer_learnt', params.id),
)

import { bank } from '~~/contract/bank'
import { addRule } from '~~/server/services/bank/rules'

export default endpoint(bank.addRule, ({ database, actor, body }) => addRule(database, actor.id, body))

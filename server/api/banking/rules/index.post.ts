import { banking } from '~~/contract/banking'
import { addRule } from '~~/server/services/banking/rules'

export default endpoint(banking.addRule, ({ database, actor, body }) => addRule(database, actor.id, body))

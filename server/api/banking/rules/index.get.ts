import { banking } from '~~/contract/banking'
import { listRules } from '~~/server/services/banking/rules'

export default endpoint(banking.rules, ({ database }) => listRules(database))

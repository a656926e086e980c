import { bank } from '~~/contract/bank'
import { listRules } from '~~/server/services/bank/rules'

export default endpoint(bank.rules, ({ database }) => listRules(database))

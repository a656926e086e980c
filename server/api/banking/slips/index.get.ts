import { banking } from '~~/contract/banking'
import { listSlips } from '~~/server/services/banking/slips'

export default endpoint(banking.slips, ({ database, query }) => listSlips(database, query))

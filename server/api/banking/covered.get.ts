import { banking } from '~~/contract/banking'
import { listCovered } from '~~/server/services/banking/world'

export default endpoint(banking.covered, ({ database, query }) => listCovered(database, query))

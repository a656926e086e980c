import { refunds } from '~~/contract/refunds'
import { listCredits } from '~~/server/services/refunds/credits'

export default endpoint(refunds.credits, ({ database, query }) => listCredits(database, query))

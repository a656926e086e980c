import { refunds } from '~~/contract/refunds'
import { listRefunds } from '~~/server/services/refunds/refunds'

export default endpoint(refunds.list, ({ database, query }) => listRefunds(database, query))

import { banking } from '~~/contract/banking'
import { listLines } from '~~/server/services/banking/lines'

export default endpoint(banking.lines, ({ database, query }) => listLines(database, query))

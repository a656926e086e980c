import { banking } from '~~/contract/banking'
import { readLine } from '~~/server/services/banking/lines'

export default endpoint(banking.line, ({ database, params, query }) =>
  readLine(database, params.id, query.customer),
)

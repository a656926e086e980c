import { bank } from '~~/contract/bank'
import { readLine } from '~~/server/services/bank/lines'

export default endpoint(bank.line, ({ database, params, query }) =>
  readLine(database, params.id, query.customer),
)

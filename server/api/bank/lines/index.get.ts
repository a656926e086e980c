import { bank } from '~~/contract/bank'
import { listLines } from '~~/server/services/bank/lines'

export default endpoint(bank.lines, ({ database, query }) => listLines(database, query))

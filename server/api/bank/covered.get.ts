import { bank } from '~~/contract/bank'
import { listCovered } from '~~/server/services/bank/world'

export default endpoint(bank.covered, ({ database, query }) => listCovered(database, query))

import { refunds } from '~~/contract/refunds'
import { listCheques } from '~~/server/services/refunds/cheques'

export default endpoint(refunds.cheques, ({ database, query }) => listCheques(database, query))

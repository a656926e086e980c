import { receipts } from '~~/contract/receipts'
import { listSundry } from '~~/server/services/receipts/sundry'

export default endpoint(receipts.sundry, ({ database, query }) => listSundry(database, query))

import { receipts } from '~~/contract/receipts'
import { listReceipts } from '~~/server/services/receipts/receipts'

export default endpoint(receipts.list, ({ database, query }) => listReceipts(database, query))

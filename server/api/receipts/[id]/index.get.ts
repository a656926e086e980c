import { receipts } from '~~/contract/receipts'
import { readReceipt } from '~~/server/services/receipts/receipts'

export default endpoint(receipts.detail, ({ database, params }) => readReceipt(database, params.id))

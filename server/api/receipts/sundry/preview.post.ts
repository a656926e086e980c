import { receipts } from '~~/contract/receipts'
import { previewSundry } from '~~/server/services/receipts/sundry'

export default endpoint(receipts.previewSundry, ({ database, body }) => previewSundry(database, body))

import { receipts } from '~~/contract/receipts'
import { readOpenItems } from '~~/server/services/receipts/tickSheet'

export default endpoint(receipts.openItems, ({ database, query }) => readOpenItems(database, query))

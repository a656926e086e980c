import { receipts } from '~~/contract/receipts'
import { readRemittance } from '~~/server/services/receipts/tickSheet'

export default endpoint(receipts.advice, ({ database, query, body }) =>
  readRemittance(database, body as Uint8Array, query.currency),
)

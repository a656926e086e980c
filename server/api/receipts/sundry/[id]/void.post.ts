import { receipts } from '~~/contract/receipts'
import { voidSundry } from '~~/server/services/receipts/sundry'

export default endpoint(receipts.voidSundry, ({ database, actor, params, body }) =>
  voidSundry(database, actor, params.id, body.reason),
)

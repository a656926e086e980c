import { receipts } from '~~/contract/receipts'
import { perform } from '~~/server/ledger/command'
import { putRightCommand } from '~~/server/services/receipts/putRight'

export default endpoint(receipts.putRight, ({ database, actor, params, body, idempotency }) =>
  perform(database, actor, putRightCommand, { ...body, itemId: params.id }, idempotency),
)

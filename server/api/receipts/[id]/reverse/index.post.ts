import { receipts } from '~~/contract/receipts'
import { perform } from '~~/server/ledger/command'
import { reverseCommand } from '~~/server/services/receipts/commands'

export default endpoint(receipts.reverse, ({ database, actor, params, body, idempotency }) =>
  perform(database, actor, reverseCommand, { ...body, itemId: params.id }, idempotency),
)

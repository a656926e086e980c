import { receipts } from '~~/contract/receipts'
import { perform } from '~~/server/ledger/command'
import { receiveCommand } from '~~/server/services/receipts/commands'

export default endpoint(receipts.post, ({ database, actor, body, idempotency }) =>
  perform(database, actor, receiveCommand, body, idempotency),
)

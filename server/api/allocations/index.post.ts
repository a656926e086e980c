import { receipts } from '~~/contract/receipts'
import { perform } from '~~/server/ledger/command'
import { allocateCommand } from '~~/server/services/receipts/commands'

export default endpoint(receipts.allocate, ({ database, actor, body, idempotency }) =>
  perform(database, actor, allocateCommand, body, idempotency),
)

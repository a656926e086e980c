import { receipts } from '~~/contract/receipts'
import { perform } from '~~/server/ledger/command'
import { unallocateCommand } from '~~/server/services/receipts/commands'

export default endpoint(receipts.unallocate, ({ database, actor, body, idempotency }) =>
  perform(database, actor, unallocateCommand, body, idempotency),
)

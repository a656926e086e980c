import { receipts } from '~~/contract/receipts'
import { perform } from '~~/server/ledger/command'
import { readSundry, sundryCommand } from '~~/server/services/receipts/sundry'

export default endpoint(receipts.postSundry, async ({ database, actor, body, idempotency }) => {
  const done = await perform(database, actor, sundryCommand, body, idempotency)
  return readSundry(database, done.id)
})

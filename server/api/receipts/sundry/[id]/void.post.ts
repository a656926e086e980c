import { receipts } from '~~/contract/receipts'
import { perform } from '~~/server/ledger/command'
import { readSundry, sundryVoidCommand } from '~~/server/services/receipts/sundry'

export default endpoint(receipts.voidSundry, async ({ database, actor, params, body, idempotency }) => {
  await perform(database, actor, sundryVoidCommand, { ...body, id: params.id }, idempotency)
  return readSundry(database, params.id)
})

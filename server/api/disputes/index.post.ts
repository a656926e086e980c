import { disputes } from '~~/contract/disputes'
import { perform } from '~~/server/ledger/command'
import { disputeCommand } from '~~/server/services/disputes/open'
import { readDispute } from '~~/server/services/disputes/read'

export default endpoint(disputes.open, async ({ database, actor, body, scope, idempotency }) => {
  const { id } = await perform(database, actor, disputeCommand, body, idempotency)
  return readDispute(database, id, scope)
})

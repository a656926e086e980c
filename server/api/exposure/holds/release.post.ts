import { exposure } from '~~/contract/exposure'
import { performOrKeep } from '~~/server/ledger/waiting'
import { releaseCommand } from '~~/server/services/exposure/holds'

export default endpoint(exposure.release, async ({ database, actor, body, idempotency }) => {
  const { waiting } = await performOrKeep(database, actor, releaseCommand, body, idempotency)
  return { released: waiting === null, waiting: waiting?.id ?? null }
})

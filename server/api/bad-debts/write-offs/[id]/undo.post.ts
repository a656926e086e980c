import { badDebts } from '~~/contract/badDebts'
import { readWriteOff } from '~~/server/services/badDebts/lists'
import { undoWriteOff } from '~~/server/services/badDebts/writeOff'

export default endpoint(badDebts.undo, async ({ database, actor, params, body, idempotency }) => {
  await undoWriteOff(database, actor, params.id, body.reason, idempotency)
  return readWriteOff(database, params.id)
})

import { impairment } from '~~/contract/impairment'
import { undoWriteOff } from '~~/server/services/impairment/writeOff'

export default endpoint(impairment.undo, async ({ database, actor, params, body, idempotency }) => {
  await undoWriteOff(database, actor, params.id, body.reason, idempotency)
  return { undone: true }
})

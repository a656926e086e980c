import { factoring } from '~~/contract/factoring'
import { undoPassOn } from '~~/server/services/factoring/close'

export default endpoint(factoring.undoPassOn, async ({ database, actor, params, body, idempotency }) => {
  await undoPassOn(database, actor, params.id, body.reason, idempotency)
  return { undone: true }
})

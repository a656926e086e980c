import { allowance } from '~~/contract/allowance'
import { undoAllowance } from '~~/server/services/impairment/allowance'

export default endpoint(allowance.undo, async ({ database, actor, params, body, idempotency }) => {
  await undoAllowance(database, actor, params.id, body.reason, idempotency)
  return { undone: true }
})

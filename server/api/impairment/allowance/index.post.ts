import { allowance } from '~~/contract/allowance'
import { postAllowance } from '~~/server/services/impairment/allowance'

export default endpoint(allowance.post, ({ database, actor, body, idempotency }) =>
  postAllowance(database, actor, body, idempotency),
)

import { refunds } from '~~/contract/refunds'
import { postLapse } from '~~/server/services/refunds/lapse'

export default endpoint(refunds.lapse, ({ database, actor, body, idempotency }) =>
  postLapse(database, actor, body, idempotency),
)

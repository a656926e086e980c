import { refunds } from '~~/contract/refunds'
import { postRefunds } from '~~/server/services/refunds/post'

export default endpoint(refunds.post, ({ database, actor, body, idempotency }) =>
  postRefunds(database, actor, body, idempotency),
)

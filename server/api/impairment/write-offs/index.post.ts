import { impairment } from '~~/contract/impairment'
import { postWriteOff } from '~~/server/services/impairment/writeOff'

export default endpoint(impairment.writeOff, ({ database, actor, body, idempotency }) =>
  postWriteOff(database, actor, body, idempotency),
)

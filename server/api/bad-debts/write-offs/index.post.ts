import { badDebts } from '~~/contract/badDebts'
import { postWriteOff } from '~~/server/services/badDebts/writeOff'

export default endpoint(badDebts.writeOff, ({ database, actor, body, idempotency }) =>
  postWriteOff(database, actor, body, idempotency),
)

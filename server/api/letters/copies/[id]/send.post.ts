import { letters } from '~~/contract/letters'
import { sendCopy } from '~~/server/services/letters/statements'

export default endpoint(letters.sendCopy, ({ database, actor, params, scope }) =>
  sendCopy(database, actor, params.id, scope),
)

import { letters } from '~~/contract/letters'
import { sendStatement } from '~~/server/services/letters/statements'

export default endpoint(letters.sendStatement, ({ database, actor, params, body, scope }) =>
  sendStatement(database, actor, params.number, body, scope),
)

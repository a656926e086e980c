import { signOff } from '~~/contract/signOff'
import { turnRequestDown } from '~~/server/services/signOff/signOff'

export default endpoint(signOff.decline, ({ database, actor, params, body }) =>
  turnRequestDown(database, actor, params.id, 'declined', body.reason),
)

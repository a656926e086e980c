import { signOff } from '~~/contract/signOff'
import { askRequestAgain } from '~~/server/services/signOff/signOff'

export default endpoint(signOff.askAgain, ({ database, actor, params, body }) =>
  askRequestAgain(database, actor, params.id, body.set),
)

import { signOff } from '~~/contract/signOff'
import { commentOn } from '~~/server/services/signOff/signOff'

export default endpoint(signOff.comment, ({ database, actor, params, body }) =>
  commentOn(database, actor, params.id, body.text),
)

import { signOff } from '~~/contract/signOff'
import { signRequest } from '~~/server/services/signOff/signOff'

export default endpoint(signOff.sign, ({ database, actor, params }) =>
  signRequest(database, actor, params.id),
)

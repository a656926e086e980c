import { signOff } from '~~/contract/signOff'
import { readSignOff } from '~~/server/services/signOff/signOff'

export default endpoint(signOff.detail, ({ database, actor, params }) =>
  readSignOff(database, actor, params.id),
)

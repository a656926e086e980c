import { signOff } from '~~/contract/signOff'
import { removeDeputy } from '~~/server/services/signOff/deputies'

export default endpoint(signOff.removeDeputy, ({ database, actor, params }) =>
  removeDeputy(database, actor, params.id),
)

import { exposure } from '~~/contract/exposure'
import { setHold } from '~~/server/services/exposure/holds'

export default endpoint(exposure.setHold, ({ database, actor, body, scope }) =>
  setHold(database, actor, body, scope),
)

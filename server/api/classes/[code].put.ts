import { today } from '~~/contract/today'
import { changeClass } from '~~/server/services/today/today'

export default endpoint(today.changeClass, ({ database, actor, params, body }) =>
  changeClass(database, actor, params.code, body),
)

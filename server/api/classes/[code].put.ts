import { today } from '~~/contract/today'
import { changeClass } from '~~/server/services/today'

export default endpoint(today.changeClass, ({ database, actor, params, body }) =>
  changeClass(database, actor, params.code, body),
)

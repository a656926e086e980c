import { today } from '~~/contract/today'
import { changeSettings } from '~~/server/services/today/today'

export default endpoint(today.changeSettings, ({ database, actor, body }) =>
  changeSettings(database, actor, body),
)

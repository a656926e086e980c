import { setup } from '~~/contract/setup'
import { changeSettings } from '~~/server/services/setup/settings'

export default endpoint(setup.changeSettings, ({ database, actor, body }) =>
  changeSettings(database, actor, body),
)

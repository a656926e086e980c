import { setup } from '~~/contract/setup'
import { readSettingsAnswer } from '~~/server/services/setup/settings'

export default endpoint(setup.settings, ({ database, actor }) => readSettingsAnswer(database, actor))

import { today } from '~~/contract/today'
import { readSettingsAnswer } from '~~/server/services/today/today'

export default endpoint(today.settings, ({ database }) => readSettingsAnswer(database))

import { forecast } from '~~/contract/forecast'
import { keepWhatIf } from '~~/server/services/forecast/whatIfs'

export default endpoint(forecast.keepWhatIf, ({ database, actor, body }) => keepWhatIf(database, actor, body))

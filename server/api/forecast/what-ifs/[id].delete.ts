import { forecast } from '~~/contract/forecast'
import { endWhatIf } from '~~/server/services/forecast/whatIfs'

export default endpoint(forecast.endWhatIf, ({ database, actor, params }) =>
  endWhatIf(database, actor, params.id),
)

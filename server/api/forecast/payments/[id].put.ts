import { forecast } from '~~/contract/forecast'
import { changePlanned } from '~~/server/services/forecast/planned'

export default endpoint(forecast.change, ({ database, actor, params, body }) =>
  changePlanned(database, actor, params.id, body),
)

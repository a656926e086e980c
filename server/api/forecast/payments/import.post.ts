import { forecast } from '~~/contract/forecast'
import { importPlanned } from '~~/server/services/forecast/planned'

export default endpoint(forecast.importPlanned, ({ database, actor, body }) =>
  importPlanned(database, actor, body.csv),
)

import { forecast } from '~~/contract/forecast'
import { readForecast } from '~~/server/services/forecast/forecast'

export default endpoint(forecast.read, ({ event, database, query }) =>
  readForecast(database, query, goneSignal(event)),
)

import { forecast } from '~~/contract/forecast'
import { readCustomerForecast } from '~~/server/services/forecast/forecast'

export default endpoint(forecast.customer, ({ database, params, query }) =>
  readCustomerForecast(database, params.number, query),
)

import { forecast } from '~~/contract/forecast'
import { SOURCE_NAMES } from '~~/core/forecast'
import { forecastIf } from '~~/server/services/forecast/forecast'

export default endpoint(forecast.whatIf, ({ event, database, body }) => {
  const query = { ...body.query, sources: body.query.sources ?? [...SOURCE_NAMES] }
  return forecastIf(database, query, body.whatIf, goneSignal(event))
})

import { forecast } from '~~/contract/forecast'
import { SOURCE_NAMES } from '~~/core/forecast'
import { shareForecast } from '~~/server/services/forecast/sheet'
import { mailPort } from '~~/server/wiring'

export default endpoint(forecast.share, ({ database, actor, body }) => {
  const query = { ...body.query, sources: body.query.sources ?? [...SOURCE_NAMES] }
  return shareForecast(database, mailPort(), actor, { ...body, query })
})

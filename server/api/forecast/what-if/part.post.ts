import { forecast } from '~~/contract/forecast'
import { readPart } from '~~/server/services/forecast/forecast'

export default endpoint(forecast.whatIfPart, ({ database, body }) =>
  readPart(database, body.query, body.whatIf),
)

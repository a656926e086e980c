import { forecast } from '~~/contract/forecast'
import { readPart } from '~~/server/services/forecast/forecast'

export default endpoint(forecast.part, ({ database, query }) => readPart(database, query))

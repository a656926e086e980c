import { forecast } from '~~/contract/forecast'
import { readSelfTest } from '~~/server/services/forecast/tested'

export default endpoint(forecast.selfTest, ({ database, query }) => readSelfTest(database, query))

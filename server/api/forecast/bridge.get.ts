import { forecast } from '~~/contract/forecast'
import { readBridge } from '~~/server/services/forecast/tested'

export default endpoint(forecast.bridge, ({ database, query }) => readBridge(database, query))

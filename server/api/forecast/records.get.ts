import { forecast } from '~~/contract/forecast'
import { listRecords } from '~~/server/services/forecast/tested'

export default endpoint(forecast.records, ({ database }) => listRecords(database))

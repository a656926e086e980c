import { forecast } from '~~/contract/forecast'
import { listPlanned } from '~~/server/services/forecast/planned'

export default endpoint(forecast.planned, async ({ database }) => ({ items: await listPlanned(database) }))

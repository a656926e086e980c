import { forecast } from '~~/contract/forecast'
import { endPlanned } from '~~/server/services/forecast/planned'

export default endpoint(forecast.end, async ({ database, actor, params }) => {
  await endPlanned(database, actor, params.id)
  return null
})

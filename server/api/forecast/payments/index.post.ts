import { forecast } from '~~/contract/forecast'
import { planPayments } from '~~/server/services/forecast/planned'

export default endpoint(forecast.plan, async ({ database, actor, body }) => {
  const [id] = await planPayments(database, actor, [body])
  return { id: id! }
})

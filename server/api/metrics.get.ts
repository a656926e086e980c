import { watch } from '~~/contract/health'
import { checkMetricsToken, readMetrics } from '~~/server/services/health/measure'

export default endpoint(watch.metrics, async ({ event, database }) => {
  checkMetricsToken(getHeader(event, 'authorization'))
  const { type, text } = await readMetrics(database)
  setHeader(event, 'content-type', type)
  return text
})

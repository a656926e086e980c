import { watch } from '~~/contract/health'
import { readHealth } from '~~/server/services/health/health'

export default endpoint(watch.health, async ({ event }) => {
  const health = await readHealth()
  if (health.status === 'down') setResponseStatus(event, 503)
  return health
})

import { factoring } from '~~/contract/factoring'
import { takeBackSchedule } from '~~/server/services/factoring/offer'

export default endpoint(factoring.takeBack, async ({ database, actor, params, body }) => {
  await takeBackSchedule(database, actor, params.id, body.reason)
  return { takenBack: true }
})

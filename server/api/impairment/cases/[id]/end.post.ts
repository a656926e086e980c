import { allowance } from '~~/contract/allowance'
import { endCase } from '~~/server/services/impairment/cases'

export default endpoint(allowance.endCase, async ({ database, actor, params, body }) => {
  await endCase(database, actor, params.id, body.reason)
  return { ended: true }
})

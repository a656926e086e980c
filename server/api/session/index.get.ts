import { people } from '~~/contract/people'
import { sessionOf } from '~~/server/services/people/people'

export default endpoint(people.session, async ({ event, database }) => {
  const { actor, mustChange } = await requireSession(event, database)
  return sessionOf(actor, mustChange)
})

import { people } from '~~/contract/people'
import { findActor, sessionOf } from '~~/server/services/people/people'
import { ProblemError } from '~~/server/services/common/problems'

export default endpoint(people.session, async ({ event, database }) => {
  const { data } = await session(event)
  const actor = data.personId ? await findActor(database, data.personId) : undefined
  if (!actor) throw new ProblemError(401, 'Not signed in', 'sign in first: POST /api/session')
  return sessionOf(actor)
})

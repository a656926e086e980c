import { people } from '~~/contract/people'
import { sessionOf, signIn } from '~~/server/services/people/people'

export default endpoint(people.signIn, async ({ event, database, body }) => {
  const actor = await signIn(database, body.email, body.password, getRequestIP(event) ?? '')
  await (await session(event)).update({ personId: actor.id })
  return sessionOf(actor)
})

import { people } from '~~/contract/people'
import { sessionOf } from '~~/server/services/people/people'
import { openSession } from '~~/server/services/people/sessions'
import { signIn } from '~~/server/services/people/signIn'

export default endpoint(people.signIn, async ({ event, database, body }) => {
  const from = await fromOf(event, database)
  const { actor, mustChange } = await signIn(database, body.email, body.password, from.network)
  await giveSession(event, database, await openSession(database, actor.id, from))
  return sessionOf(actor, mustChange)
})

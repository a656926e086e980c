import { people } from '~~/contract/people'
import { changeOwnPassword } from '~~/server/services/people/people'
import { openSession } from '~~/server/services/people/sessions'

export default endpoint(people.changePassword, async ({ event, database, actor, body }) => {
  await changeOwnPassword(database, actor, body)
  await giveSession(event, database, await openSession(database, actor.id, await fromOf(event, database)))
})

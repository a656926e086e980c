import { people } from '~~/contract/people'
import { endSession } from '~~/server/services/people/sessions'

export default endpoint(people.signOut, async ({ event, database }) => {
  const token = tokenOf(event)
  if (token) await endSession(database, token)
  takeSession(event)
  setHeader(event, 'clear-site-data', '"cache"')
})

import { people } from '~~/contract/people'
import { accessRules } from '~~/server/services/people/access'
import { listSessions } from '~~/server/services/people/sessions'

export default endpoint(people.sessions, async ({ database, actor, sessionId }) =>
  listSessions(database, actor, sessionId, await accessRules(database)),
)

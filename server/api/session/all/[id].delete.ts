import { people } from '~~/contract/people'
import { endOwnSession } from '~~/server/services/people/sessions'

export default endpoint(people.endSession, ({ database, actor, params }) =>
  endOwnSession(database, actor, params.id),
)

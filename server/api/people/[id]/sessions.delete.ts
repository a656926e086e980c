import { people } from '~~/contract/people'
import { signOutPerson } from '~~/server/services/people/people'

export default endpoint(people.signOutPerson, ({ database, actor, params }) =>
  signOutPerson(database, actor, params.id),
)

import { people } from '~~/contract/people'
import { changePerson } from '~~/server/services/people/people'

export default endpoint(people.change, ({ database, actor, params, body }) =>
  changePerson(database, actor, params.id, body),
)

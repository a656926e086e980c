import { people } from '~~/contract/people'
import { addPerson } from '~~/server/services/people/people'

export default endpoint(people.add, ({ database, actor, body }) => addPerson(database, actor.id, body))

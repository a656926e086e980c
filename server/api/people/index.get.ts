import { people } from '~~/contract/people'
import { listPeople } from '~~/server/services/people/people'

export default endpoint(people.list, ({ database }) => listPeople(database))

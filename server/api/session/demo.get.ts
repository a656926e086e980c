import { people } from '~~/contract/people'
import { demoPeople } from '~~/server/services/people/people'

export default endpoint(people.demo, ({ database }) => demoPeople(database))

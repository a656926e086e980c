import { people } from '~~/contract/people'
import { changeOwnPassword } from '~~/server/services/people/people'

export default endpoint(people.changePassword, ({ database, actor, body }) =>
  changeOwnPassword(database, actor, body),
)

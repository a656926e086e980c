import { callList } from '~~/contract/callList'
import { readCallList } from '~~/server/services/callList/callList'

export default endpoint(callList.list, ({ database, actor, query, scope }) =>
  readCallList(database, actor, query, scope),
)

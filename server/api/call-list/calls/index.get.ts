import { callList } from '~~/contract/callList'
import { listCalls } from '~~/server/services/callList/calls'

export default endpoint(callList.calls, ({ database, query, scope }) => listCalls(database, query, scope))

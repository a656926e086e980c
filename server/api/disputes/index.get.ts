import { disputes } from '~~/contract/disputes'
import { listDisputes } from '~~/server/services/disputes/read'

export default endpoint(disputes.list, ({ database, query, scope }) => listDisputes(database, query, scope))

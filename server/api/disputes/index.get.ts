import { disputes } from '~~/contract/disputes'
import { listDisputes } from '~~/server/services/disputes/disputes'

export default endpoint(disputes.list, ({ database, query, scope }) => listDisputes(database, query, scope))

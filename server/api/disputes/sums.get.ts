import { disputes } from '~~/contract/disputes'
import { disputeSums } from '~~/server/services/disputes/read'

export default endpoint(disputes.sums, ({ database, query, scope }) => disputeSums(database, query.by, scope))

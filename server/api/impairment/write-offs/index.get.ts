import { impairment } from '~~/contract/impairment'
import { listWriteOffs } from '~~/server/services/impairment/lists'

export default endpoint(impairment.list, ({ database, query }) => listWriteOffs(database, query))

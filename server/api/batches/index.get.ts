import { batches } from '~~/contract/batches'
import { listBatches } from '~~/server/services/batches'

export default endpoint(batches.list, ({ database, actor, query }) => listBatches(database, actor, query))

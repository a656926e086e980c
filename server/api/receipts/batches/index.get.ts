import { batches } from '~~/contract/receipts/batches'
import { listBatches } from '~~/server/services/receipts/batches'

export default endpoint(batches.list, ({ database, actor, query }) => listBatches(database, actor, query))

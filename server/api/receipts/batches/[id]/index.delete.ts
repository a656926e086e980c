import { batches } from '~~/contract/receipts/batches'
import { dropBatch } from '~~/server/services/receipts/batches'

export default endpoint(batches.drop, ({ database, actor, params }) => dropBatch(database, actor, params.id))

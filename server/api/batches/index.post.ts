import { batches } from '~~/contract/batches'
import { openBatch } from '~~/server/services/batches'

export default endpoint(batches.open, ({ database, actor, body }) => openBatch(database, actor, body))

import { batches } from '~~/contract/batches'
import { dropBatch } from '~~/server/services/batches'

export default endpoint(batches.drop, ({ database, actor, params }) => dropBatch(database, actor, params.id))

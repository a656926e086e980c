import { collections } from '~~/contract/collections'
import { proposeRun } from '~~/server/services/collections/runs'

export default endpoint(collections.propose, ({ database, actor, body }) => proposeRun(database, actor, body))

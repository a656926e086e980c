import { collections } from '~~/contract/collections'
import { listRuns } from '~~/server/services/collections/lists'

export default endpoint(collections.runs, ({ database, query }) => listRuns(database, query))

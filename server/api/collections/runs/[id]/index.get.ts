import { collections } from '~~/contract/collections'
import { readRun } from '~~/server/services/collections/runs'

export default endpoint(collections.run, ({ database, params }) => readRun(database, params.id))

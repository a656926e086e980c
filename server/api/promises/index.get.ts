import { promises } from '~~/contract/promises'
import { listPromises } from '~~/server/services/promises/promises'

export default endpoint(promises.list, ({ database, query, scope }) => listPromises(database, query, scope))

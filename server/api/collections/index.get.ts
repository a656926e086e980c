import { collections } from '~~/contract/collections'
import { listCollections } from '~~/server/services/collections/lists'

export default endpoint(collections.list, ({ database, query }) => listCollections(database, query))

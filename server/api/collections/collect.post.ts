import { collections } from '~~/contract/collections'
import { collectDue } from '~~/server/services/collections/collect'

export default endpoint(collections.post, ({ database, actor }) => collectDue(database, actor))

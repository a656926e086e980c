import { mandates } from '~~/contract/collections'
import { addMandate } from '~~/server/services/collections/mandates'

export default endpoint(mandates.add, ({ database, actor, body }) => addMandate(database, actor, body))

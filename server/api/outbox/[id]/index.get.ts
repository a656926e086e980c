import { outbox } from '~~/contract/outbox'
import { readMessage } from '~~/server/services/outbox/outbox'

export default endpoint(outbox.delivered, ({ database, params }) => readMessage(database, params.id))

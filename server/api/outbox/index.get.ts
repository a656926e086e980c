import { outbox } from '~~/contract/outbox'
import { listOutbox } from '~~/server/services/outbox/outbox'

export default endpoint(outbox.list, ({ database, query }) => listOutbox(database, query))

import { outbox } from '~~/contract/outbox'
import { sendAgain } from '~~/server/services/outbox/outbox'

export default endpoint(outbox.again, ({ database, actor, params }) => sendAgain(database, actor, params.id))

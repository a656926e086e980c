import { outbox } from '~~/contract/reminders'
import { sendAgain } from '~~/server/services/outbox/outbox'

export default endpoint(outbox.again, ({ database, actor, params }) => sendAgain(database, actor, params.id))

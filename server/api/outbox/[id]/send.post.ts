import { outbox } from '~~/contract/reminders'
import { sendAgain } from '~~/server/services/outbox/outbox'

export default endpoint(outbox.again, ({ database, params }) => sendAgain(database, params.id))

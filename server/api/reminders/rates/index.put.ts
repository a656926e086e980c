import { reminders } from '~~/contract/reminders'
import { setReferenceRate } from '~~/server/services/reminders/rates'

export default endpoint(reminders.setRate, ({ database, actor, body }) =>
  setReferenceRate(database, actor.id, body),
)

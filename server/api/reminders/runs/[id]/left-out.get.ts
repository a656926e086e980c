import { reminders } from '~~/contract/reminders'
import { listLeftOut } from '~~/server/services/reminders/lines'

export default endpoint(reminders.leftOut, ({ database, params, query }) =>
  listLeftOut(database, params.id, query),
)

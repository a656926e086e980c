import { reminders } from '~~/contract/reminders'
import { listNotices } from '~~/server/services/reminders/lines'

export default endpoint(reminders.notices, ({ database, params, query }) =>
  listNotices(database, params.id, query),
)

import { reminders } from '~~/contract/reminders'
import { editRun } from '~~/server/services/reminders/edit'

export default endpoint(reminders.edit, ({ database, actor, params, body }) =>
  editRun(database, actor, params.id, body),
)

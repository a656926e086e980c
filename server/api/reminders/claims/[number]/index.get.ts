import { reminders } from '~~/contract/reminders'
import { readClaims } from '~~/server/services/reminders/claims'

export default endpoint(reminders.claims, ({ database, params, scope }) =>
  readClaims(database, params.number, scope),
)

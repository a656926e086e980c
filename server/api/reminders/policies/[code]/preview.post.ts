import { reminders } from '~~/contract/reminders'
import { previewPolicy } from '~~/server/services/reminders/letters'

export default endpoint(reminders.previewPolicy, async ({ event, database, params, body }) => {
  setHeader(event, 'content-type', 'application/pdf')
  return previewPolicy(database, params.code, body)
})

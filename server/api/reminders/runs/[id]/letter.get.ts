import { reminders } from '~~/contract/reminders'
import { previewLetter } from '~~/server/services/reminders/letters'

export default endpoint(reminders.preview, async ({ event, database, params, query }) => {
  setHeader(event, 'content-type', 'application/pdf')
  return previewLetter(database, params.id, query.key)
})

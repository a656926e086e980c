import { reminders } from '~~/contract/reminders'
import { noticeLetter } from '~~/server/services/reminders/letters'

export default endpoint(reminders.letter, async ({ event, database, params, scope }) => {
  const { number, pdf } = await noticeLetter(database, params.id, scope.salesId)
  setHeader(event, 'content-type', 'application/pdf')
  setHeader(event, 'content-disposition', `inline; filename="${number}.pdf"`)
  return pdf
})

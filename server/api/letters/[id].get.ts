import { letters } from '~~/contract/letters'
import { letterAsSent } from '~~/server/services/letters/send'

export default endpoint(letters.asSent, async ({ event, database, params, scope }) => {
  const { number, pdf } = await letterAsSent(database, params.id, scope)
  return pdfAnswer(event, number, pdf)
})

import { refunds } from '~~/contract/refunds'
import { printCheque } from '~~/server/services/refunds/cheques'

export default endpoint(refunds.chequePdf, async ({ event, database, params }) => {
  const { number, pdf } = await printCheque(database, params.id)
  setHeader(event, 'content-type', 'application/pdf')
  setHeader(event, 'content-disposition', `inline; filename="cheque-${number}.pdf"`)
  return pdf
})

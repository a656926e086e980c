import { banking } from '~~/contract/banking'
import { slipAsPdf } from '~~/server/services/banking/slips'

export default endpoint(banking.pdf, async ({ event, database, params }) => {
  const { number, pdf } = await slipAsPdf(database, params.id)
  setHeader(event, 'content-type', 'application/pdf')
  setHeader(event, 'content-disposition', `inline; filename="${number}.pdf"`)
  return pdf
})

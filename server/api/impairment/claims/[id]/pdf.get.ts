import { impairment } from '~~/contract/impairment'
import { claimPdf } from '~~/server/services/impairment/claims'

export default endpoint(impairment.claimPdf, async ({ event, database, params }) => {
  const { number, pdf } = await claimPdf(database, params.id)
  setHeader(event, 'content-type', 'application/pdf')
  setHeader(event, 'content-disposition', `inline; filename="claim-${number}.pdf"`)
  return pdf
})

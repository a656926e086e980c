import { batches } from '~~/contract/receipts/batches'
import { batchRegister } from '~~/server/services/receipts/batches'

export default endpoint(batches.register, async ({ event, database, actor, params }) => {
  const { name, pdf } = await batchRegister(database, actor, params.id)
  setHeader(event, 'content-type', 'application/pdf')
  setHeader(event, 'content-disposition', `inline; filename="${name}.pdf"`)
  return pdf
})

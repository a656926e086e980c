import { payments } from '~~/contract/payments'
import { fileContent } from '~~/server/services/payments/files'

export default endpoint(payments.file, async ({ event, database, params }) => {
  const { number, content } = await fileContent(database, params.id)
  setHeader(event, 'content-type', 'application/xml; charset=utf-8')
  setHeader(event, 'content-disposition', `attachment; filename="${number}.xml"`)
  return content
})

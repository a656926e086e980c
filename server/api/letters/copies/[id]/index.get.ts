import { letters } from '~~/contract/letters'
import { copyPdf } from '~~/server/services/letters/statements'

export default endpoint(letters.copy, async ({ event, database, params, scope }) =>
  pdfAnswer(event, `copy-${params.id}`, await copyPdf(database, params.id, scope)),
)

import { letters } from '~~/contract/letters'
import { printFile } from '~~/server/services/letters/statements'

export default endpoint(letters.print, async ({ event, database, params }) =>
  pdfAnswer(event, `letters-${params.id}`, await printFile(database, params.id)),
)

import { promises } from '~~/contract/promises'
import { planPdf } from '~~/server/services/letters/others'

export default endpoint(promises.letter, async ({ event, database, params, scope }) =>
  pdfAnswer(event, `plan-${params.id}`, await planPdf(database, params.id, scope)),
)

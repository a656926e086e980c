import { letters } from '~~/contract/letters'
import { statementPdf } from '~~/server/services/letters/statements'

export default endpoint(letters.statement, async ({ event, database, params, query, scope }) =>
  pdfAnswer(event, `statement-${params.number}`, await statementPdf(database, params.number, query, scope)),
)

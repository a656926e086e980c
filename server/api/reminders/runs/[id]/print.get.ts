import { reminders } from '~~/contract/reminders'
import { runPrintFile } from '~~/server/services/reminders/letters'

export default endpoint(reminders.printFile, async ({ event, database, params }) =>
  pdfAnswer(event, `reminders-${params.id}`, await runPrintFile(database, params.id)),
)

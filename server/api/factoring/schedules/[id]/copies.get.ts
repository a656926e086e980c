import { factoring } from '~~/contract/factoring'
import { scheduleCopies } from '~~/server/services/factoring/copies'

export default endpoint(factoring.copies, async ({ event, database, params }) =>
  answerFile(event, await scheduleCopies(database, params.id)),
)

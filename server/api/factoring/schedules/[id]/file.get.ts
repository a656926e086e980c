import { factoring } from '~~/contract/factoring'
import { scheduleFile } from '~~/server/services/factoring/schedules'

export default endpoint(factoring.scheduleFile, async ({ event, database, params, query }) =>
  answerFile(event, await scheduleFile(database, params.id, query.format)),
)

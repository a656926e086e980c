import { impairment } from '~~/contract/impairment'
import { exportLosses } from '~~/server/services/impairment/report'

export default endpoint(impairment.reportFile, async ({ event, database, query }) =>
  answerFile(event, await exportLosses(database, query)),
)

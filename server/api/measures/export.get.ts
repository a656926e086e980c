import { measures } from '~~/contract/measures'
import { exportMeasures } from '~~/server/services/measures/export'

export default endpoint(measures.export, async ({ event, database, query, scope }) =>
  answerFile(event, await exportMeasures(database, query, scope)),
)

import { aging } from '~~/contract/aging'
import { exportAging } from '~~/server/services/aging/export'

export default endpoint(aging.export, async ({ event, database, query, scope }) =>
  answerFile(event, await exportAging(database, query, scope)),
)

import { allowance } from '~~/contract/allowance'
import { exportAllowance } from '~~/server/services/impairment/allowance'

export default endpoint(allowance.export, async ({ event, database, query }) =>
  answerFile(event, await exportAllowance(database, query)),
)

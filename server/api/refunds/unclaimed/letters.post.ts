import { refunds } from '~~/contract/refunds'
import { remindOfCredits } from '~~/server/services/refunds/advice'

export default endpoint(refunds.remind, ({ database, actor, body }) =>
  remindOfCredits(database, actor, body.itemIds),
)

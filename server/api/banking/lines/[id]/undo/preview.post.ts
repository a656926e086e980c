import { banking } from '~~/contract/banking'
import { previewUndo } from '~~/server/services/banking/unmatch'

export default endpoint(banking.previewUndo, ({ database, actor, params, body }) =>
  previewUndo(database, actor, params.id, body.reason),
)

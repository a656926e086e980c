import { banking } from '~~/contract/banking'
import { previewUndo } from '~~/server/services/banking/work'

export default endpoint(banking.previewUndo, ({ database, params, body }) =>
  previewUndo(database, params.id, body.reason),
)

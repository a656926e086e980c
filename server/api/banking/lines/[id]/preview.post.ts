import { banking } from '~~/contract/banking'
import { previewLine } from '~~/server/services/banking/accept'

export default endpoint(banking.preview, ({ database, actor, params, body }) =>
  previewLine(database, actor, params.id, body),
)

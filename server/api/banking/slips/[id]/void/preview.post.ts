import { banking } from '~~/contract/banking'
import { previewVoid } from '~~/server/services/banking/slips'

export default endpoint(banking.previewVoid, ({ database, params, body }) =>
  previewVoid(database, params.id, body.date),
)

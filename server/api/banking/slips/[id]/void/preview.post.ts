import { banking } from '~~/contract/banking'
import { previewVoid } from '~~/server/services/banking'

export default endpoint(banking.previewVoid, ({ database, params, body }) =>
  previewVoid(database, params.id, body.date),
)

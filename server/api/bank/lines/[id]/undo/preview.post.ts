import { bank } from '~~/contract/bank'
import { previewUndo } from '~~/server/services/bank/work'

export default endpoint(bank.previewUndo, ({ database, params, body }) =>
  previewUndo(database, params.id, body.reason),
)

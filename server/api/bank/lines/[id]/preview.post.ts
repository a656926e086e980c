import { bank } from '~~/contract/bank'
import { previewLine } from '~~/server/services/bank/work'

export default endpoint(bank.preview, ({ database, actor, params, body }) =>
  previewLine(database, actor, params.id, body),
)

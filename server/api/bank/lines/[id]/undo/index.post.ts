import { bank } from '~~/contract/bank'
import { undoLine } from '~~/server/services/bank/work'

export default endpoint(bank.undo, ({ database, actor, params, body }) =>
  undoLine(database, actor, params.id, body),
)

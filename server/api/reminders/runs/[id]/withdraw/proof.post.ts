import { reminders } from '~~/contract/reminders'
import { prove } from '~~/server/services/books/proof'
import { withdrawCommand } from '~~/server/services/reminders/withdraw'

export default endpoint(reminders.withdrawProof, ({ database, actor, params, body }) =>
  prove(database, actor, withdrawCommand, { id: params.id, tell: false, ...body }),
)

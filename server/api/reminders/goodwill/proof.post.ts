import { reminders } from '~~/contract/reminders'
import { prove } from '~~/server/services/books/proof'
import { goodwillCommand } from '~~/server/services/reminders/goodwill'

export default endpoint(reminders.goodwillProof, ({ database, actor, body }) =>
  prove(database, actor, goodwillCommand, body),
)

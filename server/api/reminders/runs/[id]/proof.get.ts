import { reminders } from '~~/contract/reminders'
import { prove } from '~~/server/services/books/proof'
import { confirmCommand } from '~~/server/services/reminders/confirm'
import { runRow } from '~~/server/services/reminders/runs'

export default endpoint(reminders.proof, async ({ database, actor, params }) => {
  const { version } = await runRow(database, params.id)
  return prove(database, actor, confirmCommand, { id: params.id, version })
})

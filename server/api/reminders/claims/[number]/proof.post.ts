import { reminders } from '~~/contract/reminders'
import { prove } from '~~/server/services/books/proof'
import { claimCommand } from '~~/server/services/reminders/claims'

export default endpoint(reminders.claimProof, ({ database, actor, params, body }) =>
  prove(database, actor, claimCommand, { ...body, customer: params.number }),
)

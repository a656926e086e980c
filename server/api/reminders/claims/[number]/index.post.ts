import { reminders } from '~~/contract/reminders'
import { perform } from '~~/server/ledger/command'
import { claimCommand } from '~~/server/services/reminders/claims'

export default endpoint(reminders.claim, ({ database, actor, params, body, idempotency }) =>
  perform(database, actor, claimCommand, { ...body, customer: params.number }, idempotency),
)

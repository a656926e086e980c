import { reminders } from '~~/contract/reminders'
import { performOrKeep } from '~~/server/ledger/waiting'
import { goodwillCommand } from '~~/server/services/reminders/goodwill'

export default endpoint(reminders.goodwill, async ({ database, actor, body, idempotency }) => {
  const { waiting } = await performOrKeep(database, actor, goodwillCommand, body, idempotency)
  return { waiting: waiting?.id ?? null }
})

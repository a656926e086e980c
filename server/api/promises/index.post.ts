import { promises } from '~~/contract/promises'
import { perform } from '~~/server/ledger/command'
import { promiseCommand, readPromise } from '~~/server/services/promises/promises'

export default endpoint(promises.add, async ({ database, actor, body, scope, idempotency }) => {
  const { id } = await perform(database, actor, promiseCommand, body, idempotency)
  return readPromise(database, id, scope)
})

import { callList } from '~~/contract/callList'
import { perform } from '~~/server/ledger/command'
import { callCommand } from '~~/server/services/callList/calls'

export default endpoint(callList.log, ({ database, actor, body, idempotency }) =>
  perform(database, actor, callCommand, body, idempotency),
)

import { accounts } from '~~/contract/accounts'
import { readTimeline } from '~~/server/services/accounts/timeline'

export default endpoint(accounts.timeline, ({ database, params, query, scope }) =>
  readTimeline(database, params.number, query, scope),
)

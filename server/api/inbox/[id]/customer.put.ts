import { inbox } from '~~/contract/inbox'
import { assignMail } from '~~/server/services/inbox/inbox'

export default endpoint(inbox.assign, ({ database, actor, params, body, scope }) =>
  assignMail(database, actor, params.id, body.customer, scope),
)

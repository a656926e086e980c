import { inbox } from '~~/contract/inbox'
import { actOnMail } from '~~/server/services/inbox/inbox'

export default endpoint(inbox.act, ({ database, actor, params, body, scope }) =>
  actOnMail(database, actor, params.id, body.action, scope),
)

import { inbox } from '~~/contract/inbox'
import { readInboxMail } from '~~/server/services/inbox/inbox'

export default endpoint(inbox.mail, ({ database, params, scope }) =>
  readInboxMail(database, params.id, scope),
)

import { messages } from '~~/contract/messages'
import { markRead } from '~~/server/services/messages/messages'

export default endpoint(messages.read, ({ database, actor, params, scope }) =>
  markRead(database, actor, params.id, scope),
)

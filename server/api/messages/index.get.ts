import { messages } from '~~/contract/messages'
import { listMessages } from '~~/server/services/messages/messages'

export default endpoint(messages.list, ({ database, actor, query, scope }) =>
  listMessages(database, actor, query, scope),
)

import { messages } from '~~/contract/messages'
import { writeMessage } from '~~/server/services/messages/messages'

export default endpoint(messages.write, ({ database, actor, body, scope }) =>
  writeMessage(database, actor, body, scope),
)

import { messages } from '~~/contract/messages'
import { markDone } from '~~/server/services/messages/messages'

export default endpoint(messages.done, ({ database, actor, params, body, scope }) =>
  markDone(database, actor, params.id, body.done, scope),
)

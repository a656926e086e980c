import { messages } from '~~/contract/messages'
import { answerMessage } from '~~/server/services/messages/messages'

export default endpoint(messages.answer, ({ database, actor, params, body, scope }) =>
  answerMessage(database, actor, params.id, body.text, scope),
)

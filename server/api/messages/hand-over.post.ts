import { messages } from '~~/contract/messages'
import { handOver } from '~~/server/services/messages/messages'

export default endpoint(messages.handOver, ({ database, actor, body }) => handOver(database, actor, body))

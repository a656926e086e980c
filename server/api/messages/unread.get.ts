import { messages } from '~~/contract/messages'
import { unreadOf } from '~~/server/services/messages/messages'

export default endpoint(messages.unread, ({ database, actor, scope }) => unreadOf(database, actor, scope))

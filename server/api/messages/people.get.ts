import { messages } from '~~/contract/messages'
import { peopleToWriteTo } from '~~/server/services/messages/messages'

export default endpoint(messages.people, ({ database, actor }) => peopleToWriteTo(database, actor))

import { banking } from '~~/contract/banking'
import { takeInbox } from '~~/server/services/banking/inbox'

export default endpoint(banking.takeInbox, ({ database, actor }) => takeInbox(database, actor))

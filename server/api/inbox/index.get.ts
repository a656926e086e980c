import { inbox } from '~~/contract/inbox'
import { listMail } from '~~/server/services/inbox/inbox'

export default endpoint(inbox.list, ({ database, query, scope }) => listMail(database, query, scope))

import { accounts } from '~~/contract/accounts'
import { listClasses } from '~~/server/services/accounts/classes'

export default endpoint(accounts.classes, ({ database }) => listClasses(database))

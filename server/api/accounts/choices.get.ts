import { accounts } from '~~/contract/accounts'
import { readChoices } from '~~/server/services/accounts/master/read'

export default endpoint(accounts.choices, ({ database }) => readChoices(database))

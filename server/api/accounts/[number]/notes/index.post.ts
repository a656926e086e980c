import { accounts } from '~~/contract/accounts'
import { writeNote } from '~~/server/services/accounts/notes'
import { findCustomer } from '~~/server/services/accounts/customers'

export default endpoint(accounts.note, async ({ database, params, body, actor, scope }) =>
  writeNote(database, await findCustomer(database, params.number, scope), body.text, actor),
)

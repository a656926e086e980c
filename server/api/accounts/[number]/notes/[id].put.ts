import { accounts } from '~~/contract/accounts'
import { findCustomer } from '~~/server/services/accounts/customers'
import { pinNote } from '~~/server/services/accounts/notes'

export default endpoint(accounts.pin, async ({ database, params, body, scope }) =>
  pinNote(database, await findCustomer(database, params.number, scope), params.id, body.pinned),
)

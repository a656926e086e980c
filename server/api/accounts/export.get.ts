import { accounts } from '~~/contract/accounts'
import { exportCustomers } from '~~/server/services/accounts/export'

export default endpoint(accounts.export, async ({ event, database, query, scope }) =>
  answerFile(event, await exportCustomers(database, query, scope)),
)

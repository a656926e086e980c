import { banking } from '~~/contract/banking'
import { listBankAccounts } from '~~/server/services/banking/accounts'

export default endpoint(banking.accounts, async ({ database }) => ({
  items: await listBankAccounts(database),
}))

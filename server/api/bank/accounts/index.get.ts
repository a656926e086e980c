import { bank } from '~~/contract/bank'
import { listBankAccounts } from '~~/server/services/bank/accounts'

export default endpoint(bank.accounts, async ({ database }) => ({ items: await listBankAccounts(database) }))

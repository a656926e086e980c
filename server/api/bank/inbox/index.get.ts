import { bank } from '~~/contract/bank'
import { waitingFiles } from '~~/server/services/bank/statements'

export default endpoint(bank.inbox, async ({ database }) => ({ items: await waitingFiles(database) }))

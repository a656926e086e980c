import { banking } from '~~/contract/banking'
import { waitingFiles } from '~~/server/services/banking/statements'

export default endpoint(banking.inbox, async ({ database }) => ({ items: await waitingFiles(database) }))

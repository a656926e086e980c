import { banking } from '~~/contract/banking'
import { setAside, waitingFiles } from '~~/server/services/banking/inbox'

export default endpoint(banking.inbox, async ({ database }) => ({
  items: (await waitingFiles(database)).map(({ name, bytes }) => ({ name, bytes })),
  setAside: await setAside(database),
}))

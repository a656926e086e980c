import { banking } from '~~/contract/banking'
import { readTray } from '~~/server/services/banking/slips'

export default endpoint(banking.tray, ({ database, query }) => readTray(database, query))

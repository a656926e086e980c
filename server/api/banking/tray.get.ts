import { banking } from '~~/contract/banking'
import { readTray } from '~~/server/services/banking'

export default endpoint(banking.tray, ({ database, query }) => readTray(database, query))

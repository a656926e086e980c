import { banking } from '~~/contract/banking'
import { acceptClear } from '~~/server/services/banking/work'

export default endpoint(banking.acceptClear, ({ database, actor }) => acceptClear(database, actor))

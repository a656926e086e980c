import { banking } from '~~/contract/banking'
import { acceptClear } from '~~/server/services/banking/clear'

export default endpoint(banking.acceptClear, ({ database, actor }) => acceptClear(database, actor))

import { banking } from '~~/contract/banking'
import { tryAgain } from '~~/server/services/banking/inbox'

export default endpoint(banking.tryAgain, ({ database, params }) => tryAgain(database, params.id))

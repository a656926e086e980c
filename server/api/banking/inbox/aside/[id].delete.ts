import { banking } from '~~/contract/banking'
import { tryAgain } from '~~/server/services/banking/inbox'

export default endpoint(banking.tryAgain, ({ database, actor, params }) =>
  tryAgain(database, actor, params.id),
)

import { banking } from '~~/contract/banking'
import { takeToBank } from '~~/server/services/banking/paying'

export default endpoint(banking.postSlip, ({ database, actor, body, idempotency }) =>
  takeToBank(database, actor, body, idempotency),
)

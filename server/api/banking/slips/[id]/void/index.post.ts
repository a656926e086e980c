import { banking } from '~~/contract/banking'
import { voidSlipById } from '~~/server/services/banking/paying'

export default endpoint(banking.voidSlip, ({ database, actor, params, body, idempotency }) =>
  voidSlipById(database, actor, params.id, body, idempotency),
)

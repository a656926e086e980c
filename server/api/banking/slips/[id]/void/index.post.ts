import { banking } from '~~/contract/banking'
import { voidSlipById } from '~~/server/services/banking/slips'

export default endpoint(banking.voidSlip, ({ database, actor, params, body }) =>
  voidSlipById(database, actor, params.id, body),
)

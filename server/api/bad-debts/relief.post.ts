import { badDebts } from '~~/contract/badDebts'
import { claimTax } from '~~/server/services/badDebts/writeOff'

export default endpoint(badDebts.relief, ({ database, actor, idempotency }) =>
  claimTax(database, actor, idempotency),
)

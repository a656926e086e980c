import { impairment } from '~~/contract/impairment'
import { claimTax } from '~~/server/services/impairment/writeOff'

export default endpoint(impairment.relief, ({ database, actor, idempotency }) =>
  claimTax(database, actor, idempotency),
)

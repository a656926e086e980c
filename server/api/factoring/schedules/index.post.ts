import { factoring } from '~~/contract/factoring'
import { offerInvoices } from '~~/server/services/factoring/offer'

export default endpoint(factoring.offer, ({ database, actor, body, idempotency }) =>
  offerInvoices(database, actor, body, idempotency),
)

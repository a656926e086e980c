import { exposure } from '~~/contract/exposure'
import { takeOrders } from '~~/server/services/exposure/orders'

export default endpoint(exposure.orders, ({ database, actor, body }) =>
  takeOrders(database, actor, body.orders),
)

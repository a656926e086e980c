import { payments } from '~~/contract/payments'
import { takeFileBack } from '~~/server/services/payments/send'

export default endpoint(payments.takeBack, ({ database, actor, params, body }) =>
  takeFileBack(database, actor, params.id, body.reason),
)

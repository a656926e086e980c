import { payments } from '~~/contract/payments'
import { sendFile } from '~~/server/services/payments/send'

export default endpoint(payments.send, ({ database, actor, params }) => sendFile(database, actor, params.id))

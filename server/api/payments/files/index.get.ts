import { payments } from '~~/contract/payments'
import { listFiles } from '~~/server/services/payments/files'

export default endpoint(payments.files, ({ database, query }) => listFiles(database, query))

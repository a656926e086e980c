import { banking } from '~~/contract/banking'
import { readSlip } from '~~/server/services/banking'

export default endpoint(banking.slip, ({ database, params }) => readSlip(database, params.id))

import { banking } from '~~/contract/banking'
import { readSlip } from '~~/server/services/banking/slips'

export default endpoint(banking.slip, ({ database, params }) => readSlip(database, params.id))

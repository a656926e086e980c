import { banking } from '~~/contract/banking'
import { previewSlip } from '~~/server/services/banking/slips'

export default endpoint(banking.previewSlip, ({ database, body }) => previewSlip(database, body))

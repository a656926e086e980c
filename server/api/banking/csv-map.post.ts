import { banking } from '~~/contract/banking'
import { ideaOfMap } from '~~/server/services/banking/statements'

export default endpoint(banking.csvMap, ({ body }) => ideaOfMap(body as Uint8Array))

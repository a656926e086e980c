import { bank } from '~~/contract/bank'
import { ideaOfMap } from '~~/server/services/bank/statements'

export default endpoint(bank.csvMap, ({ body }) => ideaOfMap(body as Uint8Array))

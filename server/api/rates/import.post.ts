import { rates } from '~~/contract/rates'
import { importRates } from '~~/server/services/rates/rates'

export default endpoint(rates.import, ({ database, actor, body }) => importRates(database, actor.id, body))

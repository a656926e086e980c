import { rates } from '~~/contract/rates'
import { listRates } from '~~/server/services/rates/rates'

export default endpoint(rates.list, ({ database, query }) => listRates(database, query))

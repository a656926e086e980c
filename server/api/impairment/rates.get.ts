import { allowance } from '~~/contract/allowance'
import { readLossRates } from '~~/server/services/impairment/lossRates'

export default endpoint(allowance.rates, ({ database, query }) => readLossRates(database, query))

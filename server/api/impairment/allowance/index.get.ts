import { allowance } from '~~/contract/allowance'
import { readAllowance } from '~~/server/services/impairment/allowance'

export default endpoint(allowance.read, ({ database, query }) => readAllowance(database, query))

import { allowance } from '~~/contract/allowance'
import { listAllowances } from '~~/server/services/impairment/allowance'

export default endpoint(allowance.runs, ({ database }) => listAllowances(database))

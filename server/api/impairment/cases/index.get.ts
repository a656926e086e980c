import { allowance } from '~~/contract/allowance'
import { listCases } from '~~/server/services/impairment/cases'

export default endpoint(allowance.cases, ({ database }) => listCases(database))

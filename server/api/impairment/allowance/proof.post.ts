import { allowance } from '~~/contract/allowance'
import { proveAllowance } from '~~/server/services/impairment/allowance'

export default endpoint(allowance.proof, ({ database, actor, body }) => proveAllowance(database, actor, body))

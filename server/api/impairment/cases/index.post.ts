import { allowance } from '~~/contract/allowance'
import { addCase } from '~~/server/services/impairment/cases'

export default endpoint(allowance.addCase, ({ database, actor, body }) => addCase(database, actor, body))

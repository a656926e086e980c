import { exposure } from '~~/contract/exposure'
import { readConcentration } from '~~/server/services/exposure/lists'

export default endpoint(exposure.concentration, ({ database, scope }) => readConcentration(database, scope))

import { exposure } from '~~/contract/exposure'
import { listHeld } from '~~/server/services/exposure/lists'

export default endpoint(exposure.holds, ({ database, scope }) => listHeld(database, scope))

import { exposure } from '~~/contract/exposure'
import { checkExposure } from '~~/server/services/exposure/exposure'

export default endpoint(exposure.check, ({ database, body, scope }) => checkExposure(database, body, scope))

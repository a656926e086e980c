import { exposure } from '~~/contract/exposure'
import { readExposure } from '~~/server/services/exposure/exposure'

export default endpoint(exposure.account, ({ database, params, scope }) =>
  readExposure(database, params.number, scope),
)

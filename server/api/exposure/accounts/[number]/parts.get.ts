import { exposure } from '~~/contract/exposure'
import { readExposureMakeUp } from '~~/server/services/exposure/exposure'

export default endpoint(exposure.makeUp, ({ database, params, query, scope }) =>
  readExposureMakeUp(database, params.number, query.part, scope),
)

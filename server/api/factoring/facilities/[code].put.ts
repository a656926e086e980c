import { factoring } from '~~/contract/factoring'
import { keepFacility } from '~~/server/services/factoring/facilities'

export default endpoint(factoring.keepFacility, ({ database, actor, params, body }) =>
  keepFacility(database, actor, params.code, body),
)

import { factoring } from '~~/contract/factoring'
import { listFacilities } from '~~/server/services/factoring/facilities'

export default endpoint(factoring.facilities, ({ database }) => listFacilities(database))

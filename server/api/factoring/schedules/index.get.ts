import { factoring } from '~~/contract/factoring'
import { listSchedules } from '~~/server/services/factoring/schedules'

export default endpoint(factoring.schedules, ({ database, query }) => listSchedules(database, query))

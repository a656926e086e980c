import { factoring } from '~~/contract/factoring'
import { readSchedules } from '~~/server/services/factoring/schedules'

export default endpoint(factoring.schedule, ({ database, params }) => readSchedules(database, params.id))

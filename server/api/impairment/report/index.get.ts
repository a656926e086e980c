import { impairment } from '~~/contract/impairment'
import { readLosses } from '~~/server/services/impairment/report'

export default endpoint(impairment.report, ({ database, query }) => readLosses(database, query))

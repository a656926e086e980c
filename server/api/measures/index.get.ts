import { measures } from '~~/contract/measures'
import { readMeasures } from '~~/server/services/measures/measures'

export default endpoint(measures.list, ({ database, query, scope }) => readMeasures(database, query, scope))

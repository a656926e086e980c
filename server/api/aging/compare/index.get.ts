import { aging } from '~~/contract/aging'
import { compareAging } from '~~/server/services/aging/compare'

export default endpoint(aging.compare, ({ database, query, scope }) => compareAging(database, query, scope))

import { aging } from '~~/contract/aging'
import { readAging } from '~~/server/services/aging/aging'

export default endpoint(aging.list, ({ database, query, scope }) => readAging(database, query, scope))

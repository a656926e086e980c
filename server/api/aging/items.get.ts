import { aging } from '~~/contract/aging'
import { readAgingItems } from '~~/server/services/aging/items'

export default endpoint(aging.items, ({ database, query, scope }) => readAgingItems(database, query, scope))

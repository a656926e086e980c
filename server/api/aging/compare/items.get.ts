import { aging } from '~~/contract/aging'
import { compareItems } from '~~/server/services/aging/compare'

export default endpoint(aging.compareItems, ({ database, query, scope }) =>
  compareItems(database, query, scope),
)

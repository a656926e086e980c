import { measures } from '~~/contract/measures'
import { readPart } from '~~/server/services/measures/measures'

export default endpoint(measures.items, ({ database, query, scope }) => readPart(database, query, scope))

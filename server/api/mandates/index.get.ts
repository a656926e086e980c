import { mandates } from '~~/contract/collections'
import { listMandates } from '~~/server/services/collections/mandates'

export default endpoint(mandates.list, ({ database, query, scope }) => listMandates(database, query, scope))

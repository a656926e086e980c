import { impairment } from '~~/contract/impairment'
import { listCandidates } from '~~/server/services/impairment/lists'

export default endpoint(impairment.candidates, ({ database, query }) => listCandidates(database, query))

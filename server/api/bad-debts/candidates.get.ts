import { badDebts } from '~~/contract/badDebts'
import { listCandidates } from '~~/server/services/badDebts/lists'

export default endpoint(badDebts.candidates, ({ database, query }) => listCandidates(database, query))

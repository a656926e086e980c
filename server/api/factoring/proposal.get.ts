import { factoring } from '~~/contract/factoring'
import { readProposal } from '~~/server/services/factoring/candidates'

export default endpoint(factoring.proposal, ({ database, query }) => readProposal(database, query))

import { impairment } from '~~/contract/impairment'
import { listClaims } from '~~/server/services/impairment/claims'

export default endpoint(impairment.claims, ({ database }) => listClaims(database))

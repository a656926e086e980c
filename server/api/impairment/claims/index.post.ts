import { impairment } from '~~/contract/impairment'
import { fileClaim } from '~~/server/services/impairment/claims'

export default endpoint(impairment.fileClaim, ({ database, actor, body }) => fileClaim(database, actor, body))

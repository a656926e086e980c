import { imports } from '~~/contract/documents'
import { cancelJob } from '~~/server/services/jobs/jobs'

export default endpoint(imports.cancel, ({ database, actor, params }) =>
  cancelJob(database, params.id, actor),
)

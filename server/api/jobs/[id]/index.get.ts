import { imports } from '~~/contract/documents'
import { readJob } from '~~/server/services/jobs/jobs'

export default endpoint(imports.job, ({ database, actor, params }) => readJob(database, params.id, actor))

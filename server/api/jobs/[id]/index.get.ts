import { imports } from '~~/contract/imports'
import { readJob } from '~~/server/services/jobs'

export default endpoint(imports.job, ({ database, params }) => readJob(database, params.id))

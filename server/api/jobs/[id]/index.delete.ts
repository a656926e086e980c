import { imports } from '~~/contract/imports'
import { cancelJob } from '~~/server/services/jobs'

export default endpoint(imports.cancel, ({ database, params }) => cancelJob(database, params.id))

import { imports } from '~~/contract/documents'
import { cancelJob } from '~~/server/services/jobs/jobs'

export default endpoint(imports.cancel, ({ database, params }) => cancelJob(database, params.id))

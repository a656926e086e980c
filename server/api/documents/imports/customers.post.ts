import { imports } from '~~/contract/documents'
import { jobRoute } from '~~/server/utils/importRoute'

export default jobRoute(imports.customers, 'import-customers', ({ query, body }) => ({
  options: {
    dryRun: query.dryRun ?? false,
    skipExisting: query.skipExisting ?? false,
    update: query.update ?? false,
  },
  upload: Buffer.from(body, 'utf8'),
}))

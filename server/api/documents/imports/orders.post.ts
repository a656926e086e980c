import { imports } from '~~/contract/documents'
import { jobRoute } from '~~/server/utils/importRoute'

export default jobRoute(imports.orders, 'import-orders', ({ query, body }) => ({
  options: { dryRun: query.dryRun ?? false, skipExisting: false },
  upload: Buffer.from(body, 'utf8'),
}))

import { imports } from '~~/contract/documents'
import { jobRoute } from '~~/server/utils/importRoute'

export default jobRoute(imports.documents, 'import-documents', ({ query, body }) => ({
  options: {
    dryRun: query.dryRun ?? false,
    skipExisting: query.skipExisting ?? false,
    opening: query.opening ?? false,
  },
  upload: Buffer.from(body, 'utf8'),
}))

import { imports } from '~~/contract/documents'
import { lookAtTable } from '~~/server/services/documents/layouts'

export default endpoint(imports.look, ({ database, query, body }) =>
  lookAtTable(database, body as Uint8Array, query.kind),
)

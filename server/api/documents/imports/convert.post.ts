import { imports } from '~~/contract/documents'
import { convertTable, mapFrom } from '~~/server/services/documents/layouts'

export default endpoint(imports.convert, ({ database, actor, query, body }) =>
  convertTable(database, actor, body as Uint8Array, mapFrom(query.map), query.remember ?? false),
)

import { collections } from '~~/contract/collections'
import { editRun } from '~~/server/services/collections/runs'

export default endpoint(collections.edit, ({ database, actor, params, body }) =>
  editRun(database, actor, params.id, body),
)

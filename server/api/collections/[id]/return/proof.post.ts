import { collections } from '~~/contract/collections'
import { proveReturn } from '~~/server/services/collections/returns'

export default endpoint(collections.returnProof, ({ database, actor, params, body }) =>
  proveReturn(database, actor, params.id, body),
)

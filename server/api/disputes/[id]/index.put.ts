import { disputes } from '~~/contract/disputes'
import { changeDispute } from '~~/server/services/disputes/open'

export default endpoint(disputes.change, ({ database, actor, params, body }) =>
  changeDispute(database, actor, params.id, body),
)

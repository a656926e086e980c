import { attachments } from '~~/contract/attachments'
import { removeAttachment } from '~~/server/services/attachments/attachments'

export default endpoint(attachments.remove, ({ database, actor, params, scope }) =>
  removeAttachment(database, actor, params.id, scope),
)

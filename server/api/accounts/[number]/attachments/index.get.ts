import { attachments } from '~~/contract/attachments'
import { listAttachments } from '~~/server/services/attachments/attachments'

export default endpoint(attachments.list, ({ database, params, scope }) =>
  listAttachments(database, params.number, scope),
)

import { attachments } from '~~/contract/attachments'
import { addAttachment } from '~~/server/services/attachments/attachments'

export default endpoint(attachments.add, ({ database, actor, params, query, body, scope }) =>
  addAttachment(database, actor, params.number, { ...query, bytes: Buffer.from(body as Uint8Array) }, scope),
)

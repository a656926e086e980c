import { attachments } from '~~/contract/attachments'
import { readAttachment } from '~~/server/services/attachments/attachments'

export default endpoint(attachments.file, async ({ event, database, params, scope }) => {
  const { name, type, inline, bytes } = await readAttachment(database, params.id, scope)
  setHeader(event, 'content-type', type)
  // What was put there by anybody runs nothing here: no scripts, no frames, never taken for another type.
  setHeader(event, 'x-content-type-options', 'nosniff')
  setHeader(event, 'content-security-policy', "default-src 'none'; style-src 'unsafe-inline'; sandbox")
  const way = inline ? 'inline' : 'attachment'
  setHeader(event, 'content-disposition', `${way}; filename*=UTF-8''${encodeURIComponent(name)}`)
  return bytes
})

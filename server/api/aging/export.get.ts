import { aging } from '~~/contract/aging'
import { exportAging } from '~~/server/services/aging/export'

export default endpoint(aging.export, async ({ event, database, query, scope }) => {
  const file = await exportAging(database, query, scope)
  setHeader(event, 'content-type', file.type)
  setHeader(event, 'content-disposition', `attachment; filename="${file.name}"`)
  return file.bytes
})

import { handovers } from '~~/contract/reminders/handover'
import { handoverArchive } from '~~/server/services/reminders/archive'

export default endpoint(handovers.archive, async ({ event, database, params }) => {
  const { name, zip } = await handoverArchive(database, params.id)
  setHeader(event, 'content-type', 'application/zip')
  setHeader(event, 'content-disposition', `attachment; filename="${name}.zip"`)
  return zip
})

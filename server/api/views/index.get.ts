import { views } from '~~/contract/views'
import { listViews } from '~~/server/services/views/views'

export default endpoint(views.list, ({ database, query, actor }) => listViews(database, query.screen, actor))

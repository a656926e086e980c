import { views } from '~~/contract/views'
import { saveView } from '~~/server/services/views/views'

export default endpoint(views.save, ({ database, body, actor }) => saveView(database, body, actor))

import { views } from '~~/contract/views'
import { removeView } from '~~/server/services/views/views'

export default endpoint(views.remove, ({ database, params, actor }) => removeView(database, params.id, actor))

import { today } from '~~/contract/today'
import { jump } from '~~/server/services/today/jump'

export default endpoint(today.jump, ({ database, query, actor }) => jump(database, query.q, actor))

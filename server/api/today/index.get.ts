import { today } from '~~/contract/today'
import { readToday } from '~~/server/services/today/today'

export default endpoint(today.today, ({ database, actor }) => readToday(database, actor))

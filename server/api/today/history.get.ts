import { today } from '~~/contract/today'
import { readHistory } from '~~/server/services/today/history'

export default endpoint(today.history, ({ database, scope }) => readHistory(database, scope))

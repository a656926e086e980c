import { today } from '~~/contract/today'
import { advanceClock } from '~~/server/services/today/today'

export default endpoint(today.advance, ({ database, actor }) => advanceClock(database, actor))

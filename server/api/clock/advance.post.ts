import { setup } from '~~/contract/setup'
import { advanceClock } from '~~/server/services/setup/clock'

export default endpoint(setup.advance, ({ database, actor }) => advanceClock(database, actor))

import { rates } from '~~/contract/rates'
import { enterRate } from '~~/server/services/rates/rates'

export default endpoint(rates.enter, ({ database, actor, body }) => enterRate(database, actor.id, body))

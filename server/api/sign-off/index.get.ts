import { signOff } from '~~/contract/signOff'
import { listSignOff } from '~~/server/services/signOff/signOff'

export default endpoint(signOff.list, ({ database, actor, query }) => listSignOff(database, actor, query))

import { signOff } from '~~/contract/signOff'
import { addDeputy } from '~~/server/services/signOff/deputies'

export default endpoint(signOff.addDeputy, ({ database, actor, body }) => addDeputy(database, actor, body))

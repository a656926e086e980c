import { signOff } from '~~/contract/signOff'
import { listDeputies } from '~~/server/services/signOff/deputies'

export default endpoint(signOff.deputies, ({ database }) => listDeputies(database))

import { factoring } from '~~/contract/factoring'
import { listToClose } from '~~/server/services/factoring/close'

export default endpoint(factoring.toClose, ({ database }) => listToClose(database))

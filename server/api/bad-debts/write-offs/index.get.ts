import { badDebts } from '~~/contract/badDebts'
import { listWriteOffs } from '~~/server/services/badDebts/lists'

export default endpoint(badDebts.list, ({ database, query }) => listWriteOffs(database, query))

import { bank } from '~~/contract/bank'
import { acceptClear } from '~~/server/services/bank/work'

export default endpoint(bank.acceptClear, ({ database, actor }) => acceptClear(database, actor))

import { bank } from '~~/contract/bank'
import { takeInbox } from '~~/server/services/bank/statements'

export default endpoint(bank.takeInbox, ({ database, actor }) => takeInbox(database, actor))

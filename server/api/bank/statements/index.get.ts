import { bank } from '~~/contract/bank'
import { listStatements } from '~~/server/services/bank/statements'

export default endpoint(bank.statements, ({ database, query }) => listStatements(database, query))

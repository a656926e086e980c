import { banking } from '~~/contract/banking'
import { listStatements } from '~~/server/services/banking/statements'

export default endpoint(banking.statements, ({ database, query }) => listStatements(database, query))

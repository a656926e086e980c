import { books } from '~~/contract/books'
import { readAuditTrail } from '~~/server/services/books/auditTrail'

export default endpoint(books.audit, ({ database, query }) => readAuditTrail(database, query))

import { books } from '~~/contract/books'
import { readTrialBalance } from '~~/server/services/books/books'

export default endpoint(books.trialBalance, ({ database, query }) => readTrialBalance(database, query))

import { books } from '~~/contract/books'
import { readTieOut } from '~~/server/services/books/books'

export default endpoint(books.tieOut, ({ database, query }) => readTieOut(database, query))

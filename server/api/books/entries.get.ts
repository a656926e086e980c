import { books } from '~~/contract/books'
import { readEntries } from '~~/server/services/books/books'

export default endpoint(books.entries, ({ database, query }) => readEntries(database, query))

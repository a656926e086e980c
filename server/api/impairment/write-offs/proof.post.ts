import { impairment } from '~~/contract/impairment'
import { writeOffCommand } from '~~/server/services/impairment/writeOff'
import { prove } from '~~/server/services/books/proof'

export default endpoint(impairment.proof, ({ database, actor, body }) =>
  prove(database, actor, writeOffCommand, body),
)

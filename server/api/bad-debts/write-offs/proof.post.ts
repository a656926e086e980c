import { badDebts } from '~~/contract/badDebts'
import { writeOffCommand } from '~~/server/services/badDebts/writeOff'
import { prove } from '~~/server/services/books/proof'

export default endpoint(badDebts.proof, ({ database, actor, body }) =>
  prove(database, actor, writeOffCommand, body),
)

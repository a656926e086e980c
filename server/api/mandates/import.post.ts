import { mandates } from '~~/contract/collections'
import { importMandates } from '~~/server/services/collections/mandateImport'

export default endpoint(mandates.import, ({ database, actor, body }) => importMandates(database, actor, body))

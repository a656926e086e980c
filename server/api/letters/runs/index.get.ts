import { letters } from '~~/contract/letters'
import { listRuns } from '~~/server/services/letters/statements'

export default endpoint(letters.runs, ({ database }) => listRuns(database))

import { letters } from '~~/contract/letters'
import { queueJob } from '~~/server/services/jobs/jobs'
import { queueRun } from '~~/server/services/letters/statements'

export default endpoint(letters.run, ({ database, actor, body }) => queueRun(database, actor, body, queueJob))

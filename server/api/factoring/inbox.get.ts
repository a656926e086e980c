import { factoring } from '~~/contract/factoring'
import { waitingAnswers } from '~~/server/services/factoring/answers'

export default endpoint(factoring.waiting, async ({ database, actor }) => ({
  items: await waitingAnswers(database, actor),
}))

import { factoring } from '~~/contract/factoring'
import { takeFactorAnswer } from '~~/server/services/factoring/answers'

export default endpoint(factoring.answer, ({ database, actor, body, idempotency }) =>
  takeFactorAnswer(database, actor, body, idempotency),
)

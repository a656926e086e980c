import { review } from '~~/contract/review'
import { readAccountReview } from '~~/server/services/review/review'

export default endpoint(review.account, ({ database, params, scope }) =>
  readAccountReview(database, params.number, scope),
)

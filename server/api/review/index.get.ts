import { review } from '~~/contract/review'
import { readReview } from '~~/server/services/review/review'

export default endpoint(review.list, ({ database, query, scope }) => readReview(database, query, scope))

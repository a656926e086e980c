import { banking } from '~~/contract/banking'
import { jobRoute } from '~~/server/utils/importRoute'

export default jobRoute(banking.take, 'bank-statement', ({ query, body }) => ({
  options: { name: query.name, account: query.account, dryRun: query.dryRun ?? false },
  upload: body as Buffer,
}))

import { bank } from '~~/contract/bank'
import { jobRoute } from '~~/server/utils/importRoute'

export default jobRoute(bank.take, 'bank-statement', ({ query, body }) => ({
  options: { name: query.name, account: query.account, dryRun: query.dryRun ?? false },
  upload: body as Buffer,
}))

import { accountsQuery, ACCOUNT_SORTS, itemsQuery } from '../../contract/accounts'
import { agingQuery } from '../../contract/aging'
import { measuresQuery } from '../../contract/measures'
import { addDays } from '../../core/calendar'
import { readAging } from '../../server/services/aging/aging'
import { readCard } from '../../server/services/accounts/card'
import { readItems } from '../../server/services/accounts/items'
import { listAccounts } from '../../server/services/accounts/list'
import { readMeasures } from '../../server/services/measures/measures'
import { learn } from '../../server/services/review/model'
import { readAccountReview } from '../../server/services/review/review'
import { figureKeeper } from '../../server/services/today/kept'
import { readToday } from '../../server/services/today/today'
import { readHistory } from '../../server/services/today/history'
import { actor, CUSTOMERS, database, say } from './base'
import { timed, tell } from './image'

const account = (n: number) => `B${String(1 + ((n * 37) % CUSTOMERS)).padStart(6, '0')}`

/** What a person waits for: the first screen, an account, the list of accounts, measures, a review. */
export async function position(): Promise<void> {
  const anew = await timed(9, n =>
    readAging(database, agingQuery.parse({ asOf: addDays('2026-03-02', n * 13) }), {}),
  )
  tell('Aging of a day that nobody asked for before', `${anew.toFixed(0)} ms; the next page as above`)
  const started = performance.now()
  await learn(database)
  tell(
    'Reviews learnt of the whole ledger',
    `${((performance.now() - started) / 1000).toFixed(1)} s, once a day`,
  )
  // As the worker does beside the server.
  await figureKeeper(database)()
  const first = performance.now()
  await readHistory(database, {})
  tell('History of the first screen, for the first time', `${(performance.now() - first).toFixed(0)} ms`)
  const today = await timed(9, () => Promise.all([readToday(database, actor), readHistory(database, {})]))
  tell('Today', `${today.toFixed(0)} ms (goal 150)`)
  const page = await timed(25, n =>
    Promise.all([
      readItems(database, account(n), itemsQuery.parse({}), {}),
      readCard(database, account(n), {}, actor, {}),
    ]),
  )
  tell('An account with its Card', `${page.toFixed(0)} ms (goal 150)`)
  let worst = { sort: '', ms: 0 }
  for (const sort of ACCOUNT_SORTS) {
    const ms = await timed(3, () => listAccounts(database, accountsQuery.parse({ sort: `-${sort}` }), {}))
    if (ms > worst.ms) worst = { sort, ms }
  }
  tell('List of accounts by any column', `at most ${worst.ms.toFixed(0)} ms, by ${worst.sort} (goal 300)`)
  const measures = await timed(3, () => readMeasures(database, measuresQuery.parse({ by: 'class' }), {}))
  tell('Measures of 14 days by class', `${measures.toFixed(0)} ms`)
  const review = await timed(15, n => readAccountReview(database, account(n), {}))
  tell('Review of an account', `${review.toFixed(0)} ms`)
  say('')
}

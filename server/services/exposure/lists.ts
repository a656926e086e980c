import { z } from 'zod'
import { cell } from '../../db/rows'
import type { Concentration, HeldRow } from '../../../contract/exposure'
import { HOLD_CAUSES } from '../../../core/exposure'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import type { Scope } from '../people/scope'
import { heldOf } from './holds'
import { standingsOf, type AccountStanding, type Of } from './standing'

const namedRow = z.object({
  id: cell.whole,
  number: cell.text,
  name: cell.text,
  class: cell.text,
  className: cell.text,
  country: cell.text,
})
type Named = z.output<typeof namedRow>

/** Customers that may be seen, with what they are grouped by. */
const namedOf = (db: Handle, scope: Scope): Promise<Named[]> =>
  db.rows(
    namedRow,
    `SELECT c.id, c.number, c.name, c.class, COALESCE(k.name, c.class) AS className, c.country
      FROM customer c LEFT JOIN customer_class k ON k.code = c.class
      WHERE c.merged_into IS NULL ${scope.salesId ? 'AND c.sales_id = :salesId' : ''}`,
    { salesId: scope.salesId ?? 0 },
  )

const idsOf = (scope: Scope, named: readonly Named[]): Of => (scope.salesId ? named.map(n => n.id) : null)

const listHeldRow = z.object({
  customerId: cell.whole,
  since: cell.text,
})

const listHeldWaitingCommandRow = z.object({
  customerId: cell.whole,
  id: cell.whole,
})

/** Accounts that are held now, the largest exposure first, with what each waits for. */
export async function listHeld(database: Handle, scope: Scope): Promise<{ base: string; items: HeldRow[] }> {
  const settings = await readSettings(database)
  const named = await namedOf(database, scope)
  const of = idsOf(scope, named)
  const standings = await standingsOf(database, settings, of)
  const [held, since, waiting] = await Promise.all([
    heldOf(database, settings, standings, of),
    database.rows(
      listHeldRow,
      `SELECT customer_id AS customerId, MIN(on_date) AS since FROM hold WHERE ended_at IS NULL GROUP BY customer_id`,
    ),
    database.rows(
      listHeldWaitingCommandRow,
      `SELECT customer_id AS customerId, MAX(id) AS id FROM waiting_command
        WHERE kind = 'hold' AND state = 'waiting' GROUP BY customer_id`,
    ),
  ])
  const nameOf = new Map(named.map(n => [n.id, n]))
  const sinceOf = new Map(since.map(s => [s.customerId, s.since]))
  const waitingOf = new Map(waiting.map(w => [w.customerId, w.id]))
  const items = [...held].flatMap(([id, { standing, holds }]): HeldRow[] => {
    const customer = nameOf.get(id)
    if (!customer) return []
    return [
      {
        customer: { number: customer.number, name: customer.name },
        holds: holds.map(h => ({
          cause: h.cause,
          label: HOLD_CAUSES[h.cause],
          words: h.words,
          toPay: h.toPay,
        })),
        since: sinceOf.get(id) ?? null,
        exposure: standing.exposure.total,
        limit: standing.limit,
        overdue: standing.facts.longOverdue,
        waiting: waitingOf.get(id) ?? null,
      },
    ]
  })
  return { base: settings.base, items: items.sort((a, b) => b.exposure - a.exposure) }
}

const LARGEST = 10

/** Who the money stands with: the largest accounts, classes and countries, each with its share of all. */
export async function readConcentration(database: Handle, scope: Scope): Promise<Concentration> {
  const settings = await readSettings(database)
  const named = await namedOf(database, scope)
  const standings = await standingsOf(database, settings, idsOf(scope, named))
  // Only what is owed counts: credit of one account does not make another one safer.
  const owed = (s: AccountStanding | undefined) => Math.max(0, s?.exposure.total ?? 0)
  const total = named.reduce((sum, n) => sum + owed(standings.get(n.id)), 0)
  const share = (exposure: number) => (total ? Math.round((1000 * exposure) / total) / 10 : 0)
  const grouped = (keyOf: (n: Named) => { key: string; name: string }) => {
    const groups = new Map<string, { key: string; name: string; exposure: number }>()
    for (const n of named) {
      const exposure = owed(standings.get(n.id))
      if (!exposure) continue
      const of = keyOf(n)
      const group = groups.get(of.key) ?? { ...of, exposure: 0 }
      group.exposure += exposure
      groups.set(of.key, group)
    }
    return [...groups.values()]
      .sort((a, b) => b.exposure - a.exposure)
      .map(g => ({ ...g, share: share(g.exposure) }))
  }
  const largest = named
    .map(n => ({ n, standing: standings.get(n.id) }))
    .filter(({ standing }) => owed(standing) > 0)
    .sort((a, b) => owed(b.standing) - owed(a.standing))
    .slice(0, LARGEST)
    .map(({ n, standing }) => {
      const exposure = owed(standing)
      return { key: n.number, name: n.name, exposure, share: share(exposure), limit: standing!.limit }
    })
  return {
    base: settings.base,
    total,
    largest,
    byClass: grouped(n => ({ key: n.class, name: n.className || 'without a class' })),
    byCountry: grouped(n => ({ key: n.country, name: n.country })),
  }
}

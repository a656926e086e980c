import { z } from 'zod'
import { cell } from '../../db/rows'
import type { Dimension } from '../../../core/aging'
import { bucketsOf, type Bucket } from '../../../core/aging'
import type { IsoDate } from '../../../core/calendar'
import type { AgingQuery } from '../../../contract/aging'
import type { Handle, Values } from '../../db/handle'
import { readSettings, type Settings } from '../../db/settings'
import type { Wanted } from '../../image'
import type { Past } from '../../ledger/asOf'
import { lentAgainst } from '../factoring/atFactor'
import { knownTo, type KnownTo } from '../books/known'
import { ProblemError } from '../common/problems'
import { like } from '../common/paging'
import type { Scope } from '../people/scope'

/** What filters an aging, and the items of one of its figures. */
export type Filters = Pick<
  AgingQuery,
  'ours' | 'asOf' | 'known' | 'currency' | 'search' | 'class' | 'controller' | 'country' | 'basis' | 'buckets'
> & { by: AgingQuery['by']; within?: AgingQuery['within'] }

/** A request for an aging as it is to be answered, whoever answers it. */
export interface AgingRequestInForce {
  settings: Settings
  asOf: IsoDate
  state: KnownTo
  past: Past
  buckets: Bucket[]
  /** One dimension or two. */
  dimensions: Dimension[]
  /** Items that do not count, by id. */
  without: number[]
}

/** The buckets of a set by its name; those of the house without one. */
export function bucketsNamed(settings: Settings, name: string | undefined): Bucket[] {
  if (!name) return settings.buckets
  const set = settings.bucketSets.find(s => s.name === name)
  if (!set)
    throw new ProblemError(422, 'Not a set of buckets', `there is no set of buckets called ${name}`, [
      {
        path: 'buckets',
        message: 'unknown',
        satisfy: settings.bucketSets.length
          ? `use one of ${settings.bucketSets.map(s => s.name).join(', ')}`
          : 'add it under Setup, Aging',
      },
    ])
  return bucketsOf(set.bounds)
}

export async function inForce(database: Handle, q: Filters): Promise<AgingRequestInForce> {
  const [settings, state] = await Promise.all([readSettings(database), knownTo(database, q.known)])
  const asOf = q.asOf ?? settings.today
  if (q.within === q.by)
    throw new ProblemError(422, 'Twice the same', `rows are by ${q.by} already`, [
      { path: 'within', message: 'the same as by', satisfy: 'choose another' },
    ])
  return {
    settings,
    asOf,
    state,
    past: { asOf, today: settings.today, known: q.known === undefined ? null : state.entryId },
    buckets: bucketsNamed(settings, q.buckets),
    dimensions: q.within ? [q.by, q.within] : [q.by],
    without: q.ours ? await lentAgainst(database, asOf) : [],
  }
}

/** Conditions on the customer `c`; empty when all are wanted. */
export function customerWhere(q: Filters, scope: Scope, values: Values): string[] {
  const where: string[] = []
  if (scope.salesId) {
    where.push('c.sales_id = :salesId')
    values.salesId = scope.salesId
  }
  if (q.search) {
    where.push('(c.name LIKE :search OR c.number LIKE :search)')
    values.search = like(q.search)
  }
  if (q.class) {
    where.push('c.class = :class')
    values.class = q.class
  }
  if (q.country) {
    where.push('c.country = :country')
    values.country = q.country
  }
  if (q.controller) {
    where.push('c.controller_id = (SELECT id FROM person WHERE email = :controller)')
    values.controller = q.controller
  }
  return where
}

const customersWantedRow = z.object({
  id: cell.whole,
})

/**
 * The same for the ledger in memory. What compares text the way the database does (a search, a class) is
 * asked of the database, so that both find the same customers.
 */
export async function customersWanted(database: Handle, q: Filters, scope: Scope): Promise<Wanted> {
  const values: Values = {}
  const { search, class: customerClass, controller } = q
  const where = customerWhere({ ...q, country: undefined }, {}, values)
  const rows =
    search || customerClass || controller
      ? await database.rows(
          customersWantedRow,
          `SELECT c.id FROM customer c WHERE ${where.join(' AND ')}`,
          values,
        )
      : null
  return { ids: rows && rows.map(r => r.id), salesId: scope.salesId, country: q.country }
}

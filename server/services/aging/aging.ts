import type { z } from 'zod'
import { dayNumber } from '../../../core/calendar'
import type { PageAsk, PersonName, SortColumn } from '../../../core/aging'
import type { AgingAnswer, AgingRow } from '../../../contract/aging'
import type { agingQuery } from '../../../contract/aging'
import type { Handle } from '../../db/handle'
import { askImage, type AgingPage } from '../../image'
import { controlAccount } from '../books/books'
import { cut, decodeCursor } from '../common/paging'
import type { Scope } from '../people/scope'
import { customersWanted, inForce, type AgingRequestInForce } from './request'
import { agingFromTables } from './tables'

export type AgingRequest = z.infer<typeof agingQuery>

function pageAsk(q: AgingRequest, { asOf }: AgingRequestInForce): PageAsk {
  const cursor = decodeCursor(q.cursor, 2)
  return {
    column: q.sort.replace(/^-/, '') as SortColumn,
    descending: q.sort.startsWith('-'),
    after: cursor && { value: cursor[0]!, key: String(cursor[1]) },
    limit: q.limit,
    day: dayNumber(asOf),
  }
}

/** The names that rows of an aging bear, beside those of customers. */
export async function namesOf(database: Handle, dimensions: readonly string[]) {
  const people: [number, PersonName][] = []
  const classes: [string, string][] = []
  if (dimensions.includes('controller') || dimensions.includes('sales'))
    for (const { id, email, name } of await database.find('person', {}, { columns: ['id', 'email', 'name'] }))
      people.push([id, { email, name }])
  if (dimensions.includes('class'))
    for (const { code, name } of await database.find('customer_class', {}, { columns: ['code', 'name'] }))
      classes.push([code, name])
  return { people, classes }
}

/** From the ledger in memory, or from its tables when it is not there. */
async function pageOfAging(
  database: Handle,
  request: AgingRequestInForce,
  q: AgingRequest,
  scope: Scope,
): Promise<AgingPage> {
  const { asOf, past, buckets, dimensions, without } = request
  const page = pageAsk(q, request)
  const fromMemory = await askImage(database, 'aging', {
    moment: { day: dayNumber(asOf), known: past.known },
    basis: q.basis,
    currency: q.currency ?? null,
    buckets,
    by: dimensions,
    net: q.net ?? false,
    without,
    wanted: await customersWanted(database, q, scope),
    ...(await namesOf(database, dimensions)),
    page,
  })
  return fromMemory ?? agingFromTables(database, request, { ...q, net: q.net ?? false, page }, scope)
}

/** The aging of any day, as known at any entry; from it the tie-out of the whole ledger. */
export async function readAging(database: Handle, q: AgingRequest, scope: Scope): Promise<AgingAnswer> {
  const request = await inForce(database, q)
  const { settings, asOf, state, past } = request
  const [found, control] = await Promise.all([
    pageOfAging(database, request, q, scope),
    scope.salesId ? null : controlAccount(database, past),
  ])
  const currency = q.currency ?? settings.base
  const page = cut(found.rows, q.limit, r => [r.sortValue, r.keys.join('\n')])
  const named = (keys: string[], names: string[], i: number) => ({ number: keys[i]!, name: names[i]! })
  return {
    asOf,
    known: { entry: state.entry, at: state.at, asked: q.known !== undefined },
    buckets: request.buckets,
    items: page.items.map(({ keys, names, amounts, onAccount, total }): AgingRow => ({
      customer: named(keys, names, 0),
      within: keys.length > 1 ? named(keys, names, 1) : null,
      currency,
      amounts,
      onAccount,
      total,
    })),
    totals: { currency, ...found.totals },
    control: control && {
      ...control,
      currency: settings.base,
      ledger: found.ledger,
      ties: found.ledger === control.balance,
    },
    next: page.next,
  }
}

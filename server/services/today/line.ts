import type { DayFigures, Waits } from '../../../core/today'
import type { TodayAnswer } from '../../../contract/today'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import type { Actor, Scope } from '../people/scope'

export type Line<Kind extends string> = Omit<TodayAnswer['todo'][number], 'kind'> & { kind: Kind }
export type Lines = Promise<Line<Waits>[]>

export const plural = (n: number, one: string, many = `${one}s`) => `${n} ${n === 1 ? one : many}`
export const ofSales = (scope: Scope, column = 'c.sales_id') =>
  scope.salesId ? `AND ${column} = :salesId` : ''

/** Who reads what, and as of when. */
export interface Ask {
  database: Handle
  settings: Settings
  actor: Actor
  scope: Scope
  /** What the ledger tells. */
  figures: Promise<DayFigures>
}

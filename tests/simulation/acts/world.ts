import { addDays } from '../../../core/calendar'
import type { Handle } from '../../../server/db/handle'
import { perform, type AnyCommand, type Idempotency } from '../../../server/ledger/command'
import type { Written } from '../../../server/ledger/write'
import type { Actor } from '../../../server/services/people/scope'
import type { Chance } from '../../../simulators/chance'
import type { Model, ModelItem } from '../model'
import { Died, type OtherProcess } from '../other'

export const TODAY = '2026-11-16'
export const CUSTOMERS = ['K1', 'K2', 'K3']

/**
 * What an act that succeeded means. `order`: the number of its journal entry, the order in which acts took
 * effect.
 */
export interface Outcome {
  order: number
  apply: (model: Model) => void
}

/** What somebody does. */
export interface Act {
  told: string
  run: (db: Handle) => Promise<Outcome>
}

export interface World {
  chance: Chance
  model: Model
  actors: readonly Actor[]
  /** Wraps a Command with the faults that are drawn for it. */
  unsteady: (what: AnyCommand) => AnyCommand
  elsewhere: Elsewhere
  batches: Map<number, { id: number; keyed: number[] }>
}

/** The second process, and what is told of it. */
export interface Elsewhere {
  process: OtherProcess
  url: string
  count: (what: string) => void
  /** Of the keys that were used. */
  keys: number
}

export interface Ran {
  order: number
  written: readonly Written[]
  result: never
}

/** Performs a Command, here or in the second process, and tells where in the journal it came. */
export async function ordered(
  w: World,
  db: Handle,
  actor: Actor,
  what: AnyCommand,
  ask: unknown,
): Promise<Ran> {
  if (w.chance.happens(0.12)) return performedElsewhere(w, db, actor, what, ask)
  return performedHere(db, actor, w.unsteady(what), ask)
}

/**
 * In the second process; now and then it is killed about when it commits. Whoever asked does not know then
 * whether it was posted, and asks again with the same key: it must be posted once.
 */
export async function performedElsewhere(
  w: World,
  db: Handle,
  actor: Actor,
  what: AnyCommand,
  ask: unknown,
): Promise<Ran> {
  const { elsewhere, chance } = w
  const { url } = elsewhere
  const key = `elsewhere ${++elsewhere.keys}`
  const killAfter = chance.happens(0.03) ? chance.whole(0, 5) : null
  elsewhere.count('by the second process')
  try {
    const done = await elsewhere.process.perform({ url, actor, name: what.name, ask, key }, killAfter)
    return { ...done, order: orderOf(done.written), result: done.result as never }
  } catch (error) {
    if (!(error instanceof Died)) throw error
    const again = await performedHere(db, actor, what, ask, { key, request: ask })
    elsewhere.count(
      again.written.length ? 'process killed before its commit' : 'process killed after its commit',
    )
    const written = again.written.length ? again.written : error.written
    return { order: orderOf(written), written, result: again.result }
  }
}

export const orderOf = (written: readonly Written[]) => written[0]?.entryNumber ?? 0

export async function performedHere(
  db: Handle,
  actor: Actor,
  what: AnyCommand,
  ask: unknown,
  key?: Idempotency,
): Promise<Ran> {
  let written: readonly Written[] = []
  const watched: AnyCommand = {
    ...what,
    after: async done => {
      written = done.written
      return what.after(done) as Promise<unknown>
    },
  }
  const result = (await perform(db, actor, watched, ask, key)) as never
  return { order: orderOf(written), written, result }
}

export const pick = <T>(w: World, list: readonly T[]): T | undefined =>
  list.length ? w.chance.pick(list) : undefined
export const day = (w: World) => addDays(TODAY, -w.chance.whole(0, w.chance.happens(0.5) ? 0 : 14))
export const anyone = (w: World) => w.chance.pick(w.actors)

export const openItems = (
  w: World,
  side: 'debit' | 'credit',
  customer: string,
  currency?: string,
): ModelItem[] =>
  [...w.model.items.values()].filter(
    i =>
      i.side === side &&
      i.customer === customer &&
      (!currency || i.currency === currency) &&
      // Now and then somebody tries what is closed.
      (i.open > 0 || w.chance.happens(0.05)) &&
      i.kind !== 'reversal',
  )

/** So much as is open; now and then too much, or a part. */
export function amountOf(w: World, open: number): number {
  if (w.chance.happens(0.07)) return open + w.chance.whole(1, 500)
  return w.chance.happens(0.5) ? Math.max(1, open) : Math.max(1, w.chance.whole(1, Math.max(1, open)))
}

import { AsyncLocalStorage } from 'node:async_hooks'
import { turns } from '../../server/db/handle'
import type { Chance } from '../../simulators/chance'

/**
 * How long an act may hold its turn before it is taken to wait for a lock, and the next is let go.
 * Milliseconds.
 */
const PATIENCE = 12

interface Runner {
  /** Statements that wait for their turn: more than one when an act reads several things at once. */
  gates: (() => void)[]
  arrived: () => void
}

/** The act that the code now running belongs to. One for all: each of its kind slows every promise. */
const inside = new AsyncLocalStorage<Runner>()

/**
 * Several people at once, statement by statement: before each statement an act waits for its turn, and chance
 * says whose it is. So a seed says how the acts are interleaved; only how long the database lets one wait for
 * a lock is its own. `onlooker`: one who reads amid them, and gets turns as they do.
 */
export async function interleave<T>(
  chance: Chance,
  acts: readonly (() => Promise<T>)[],
  onlooker?: () => Promise<void>,
): Promise<PromiseSettledResult<T>[]> {
  const runners = new Set<Runner>()
  turns.next = () => {
    const runner = inside.getStore()
    if (!runner) return Promise.resolve()
    return new Promise(resolve => {
      runner.gates.push(resolve)
      runner.arrived()
    })
  }
  const start = <R>(act: () => Promise<R>): Promise<R> => {
    const runner: Runner = { gates: [], arrived: () => {} }
    runners.add(runner)
    const done = inside.run(runner, act)
    const leave = () => {
      runners.delete(runner)
      runner.arrived()
    }
    done.then(leave, leave)
    return done
  }
  const looked = onlooker && start(onlooker)
  const results = Promise.allSettled(acts.map(start))
  while (runners.size) {
    const waiting = [...runners].filter(r => r.gates.length)
    if (!waiting.length) {
      await new Promise(resolve => setTimeout(resolve, 1))
      continue
    }
    const next = chance.pick(waiting)
    const go = next.gates.shift()!
    const back = new Promise<void>(resolve => {
      next.arrived = resolve
    })
    go()
    await Promise.race([back, new Promise(resolve => setTimeout(resolve, PATIENCE))])
  }
  turns.next = null
  await looked
  return results
}

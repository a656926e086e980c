import { watch, type Ref } from 'vue'

/** Of what is shown, how often it was asked for, and how often somebody changed it. */
interface Turns {
  asked: number
  put: number
}
const turns = new WeakMap<Ref, Turns>()

function turnsOf(target: Ref): Turns {
  const known = turns.get(target) ?? { asked: 0, put: 0 }
  turns.set(target, known)
  return known
}

/** Watches whether anybody changes what is shown until it is let go. */
function touched(target: Ref): { is: () => boolean; release: () => void } {
  let is = false
  const release = watch(
    target,
    () => {
      is = true
    },
    { deep: true, flush: 'sync' },
  )
  return { is: () => is, release }
}

/**
 * Shows what the server answers, unless something newer happened since it was asked: a later question brings
 * its own answer; what a person typed or chose meanwhile stays; after `put` it is asked again. Every field or
 * list that loads is filled by it: no late answer overwrites what a person did. Throws what `ask` throws
 * while its answer is still wanted.
 */
export async function fill<T>(target: Ref<T>, ask: () => Promise<T>): Promise<void> {
  const own = turnsOf(target)
  const mine = ++own.asked
  for (;;) {
    const before = own.put
    const person = touched(target)
    try {
      const answer = await ask()
      if (mine !== own.asked) return
      if (before === own.put) {
        if (!person.is()) target.value = answer
        return
      }
    } catch (error) {
      if (mine === own.asked) throw error
      return
    } finally {
      person.release()
    }
  }
}

/**
 * The same for the answer of a change, which cannot be asked twice: what was asked for before it comes too
 * late.
 */
export async function settle<T>(target: Ref<T>, change: () => Promise<T>): Promise<void> {
  const own = turnsOf(target)
  const mine = ++own.asked
  const answer = await change()
  if (mine === own.asked) target.value = answer
}

/** Shows at once what the server has taken; an answer on its way is asked for again. */
export function put<T>(target: Ref<T>, change: (now: T) => T): void {
  turnsOf(target).put++
  target.value = change(target.value)
}

/** For answers that fill several things together: asks whether the question is still the newest. */
export function newest(): () => () => boolean {
  let asked = 0
  return () => {
    const mine = ++asked
    return () => mine === asked
  }
}

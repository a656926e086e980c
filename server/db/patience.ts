import { E_TIMEOUT, Semaphore, withTimeout } from 'async-mutex'

/*
 * Waiting has an end. Who works in the application is told within seconds what became of it: done, refused,
 * or come again. What a transaction waits for are its turn among the others, a row that somebody holds, and a
 * free connection. Jobs and scripts wait as long as it takes.
 */

/** Nothing was done: others were at it for too long. `seconds`: when it is worth trying again. */
export class Busy extends Error {
  constructor(
    message: string,
    readonly seconds = 2,
  ) {
    super(message)
  }
}

/** Longest wait for a row or a connection; one that could not end in time is not begun. */
export const ROW_SECONDS = 2

/** So long after it was asked for, a transaction has begun its last wait: what it writes takes the rest. */
const LAST_WAIT_MS = 2500

/** So many connections of a pool are kept for those who only read. */
const FOR_READERS = 6

export class Patience {
  private readonly turns: Semaphore

  /** `max`: connections of the pool. `bounded`: somebody waits for the answer. */
  constructor(
    max: number,
    private readonly bounded: boolean,
  ) {
    this.turns = new Semaphore(max > FOR_READERS ? Math.max(2, max - FOR_READERS) : max)
  }

  /** When what is asked for now begins its last wait, in milliseconds since 1970. */
  lastWait(): number {
    return this.bounded ? Date.now() + LAST_WAIT_MS : Infinity
  }

  /** Does the work when its turn comes. Throws Busy when that is too late. */
  async inTurn<T>(lastWait: number, work: () => Promise<T>): Promise<T> {
    const left = lastWait - Date.now()
    const turns = left === Infinity ? this.turns : withTimeout(this.turns, Math.max(1, left), E_TIMEOUT)
    const [, release] = await turns.acquire().catch((error: unknown) => {
      if (error === E_TIMEOUT) throw new Busy('many people are posting at this moment')
      throw error
    })
    try {
      return await work()
    } finally {
      release()
    }
  }
}

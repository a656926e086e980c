import { Busy } from '../db/patience'

/** So many requests are in work at once; more would only wait for each other. */
const MOST_AT_ONCE = 256

let inWork = 0

/** Lets a request in, or refuses it at once. */
export async function admit<T>(work: () => Promise<T>): Promise<T> {
  if (inWork >= MOST_AT_ONCE) throw new Busy('too many requests are in work', 1)
  inWork++
  try {
    return await work()
  } finally {
    inWork--
  }
}

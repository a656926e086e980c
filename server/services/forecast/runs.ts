import { Stopped, type Run } from '../../forecaster'
import { ProblemError } from '../common/problems'

/** How much of each forecast that runs now is done, by the name its caller gave it. */
const shares = new Map<string, number>()

export const progressOf = (run: string): { share: number | null } => ({ share: shares.get(run) ?? null })

/** Works while its progress can be asked for by a name. Throws 409 when it was stopped. */
export async function watched<T>(
  run: string | undefined,
  signal: AbortSignal | undefined,
  work: (run: Run) => Promise<T>,
): Promise<T> {
  try {
    if (run === undefined) return await work({ signal })
    shares.set(run, 0)
    return await work({ signal, tell: share => shares.set(run, share) })
  } catch (error) {
    if (error instanceof Stopped)
      throw new ProblemError(409, 'Stopped', 'nobody waited for this forecast any more')
    throw error
  } finally {
    if (run !== undefined) shares.delete(run)
  }
}

import { z } from 'zod'
import { cell } from '../../db/rows'
import { createHash, timingSafeEqual } from 'node:crypto'
import type { Handle } from '../../db/handle'
import { registry, state } from '../../metrics'
import { notFound, ProblemError } from '../common/problems'

const hashOf = (text: string) => createHash('sha256').update(text).digest()

/** Metrics are for the machine that holds the token; without one there are none. */
export function checkMetricsToken(authorization: string | undefined): void {
  const token = process.env.BILANCIO_METRICS_TOKEN
  if (!token) throw notFound('/api/metrics', 'set BILANCIO_METRICS_TOKEN to have it')
  const given = /^Bearer (\S+)$/i.exec(authorization ?? '')?.[1] ?? ''
  if (!timingSafeEqual(hashOf(given), hashOf(token)))
    throw new ProblemError(401, 'Not signed in', 'send the token: Authorization: Bearer …')
}

const readMetricsRow = z.object({
  what: cell.text,
  n: cell.sum,
})

/** What this process counted and what waits in the database, in the text format of Prometheus. */
export async function readMetrics(database: Handle): Promise<{ type: string; text: string }> {
  const rows = await database.rows(
    readMetricsRow,
    `SELECT CONCAT('jobs ', state) AS what, COUNT(*) AS n FROM job
        WHERE state IN ('queued', 'running') GROUP BY state
      UNION ALL SELECT CONCAT('letters ', state), COUNT(*) FROM outbox
        WHERE state IN ('queued', 'waiting', 'failed') GROUP BY state
      UNION ALL SELECT 'bank files set aside', COUNT(*) FROM inbox_fault WHERE dismissed = 0
      UNION ALL SELECT 'bank lines open', COUNT(*) FROM bank_line WHERE state = 'open'
      UNION ALL SELECT 'sessions', COUNT(*) FROM session
      UNION ALL SELECT 'entries', COALESCE(MAX(number), 0) FROM entry`,
  )
  state.reset()
  for (const { what, n } of rows) state.set({ what }, Number(n))
  return { type: registry.contentType, text: await registry.metrics() }
}

import { z } from 'zod'
import { operation } from './operation'

const health = z.object({
  status: z
    .enum(['ok', 'look', 'down'])
    .describe('look: it works, and somebody should look; down (503): nothing can be posted'),
  database: z.enum(['ok', 'no answer']),
  disk: z.enum(['ok', 'low', 'full', 'not writable']),
  queue: z.enum(['ok', 'stuck', 'unknown']).describe('jobs'),
  mail: z.enum(['ok', 'waiting', 'failed', 'unknown']),
  inbox: z.enum(['ok', 'files set aside', 'not readable']).describe('files from the bank'),
  version: z.string(),
})
export type Health = z.infer<typeof health>

/** For the machines that watch over the application. */
export const watch = {
  health: operation({
    method: 'get',
    path: '/api/health',
    summary: 'Whether the application works',
    ability: null,
    always: true,
    response: health,
    also: [503],
  }),
  metrics: operation({
    method: 'get',
    path: '/api/metrics',
    summary: 'Metrics in the text format of Prometheus, for the bearer of BILANCIO_METRICS_TOKEN',
    ability: null,
    always: true,
    responseType: 'text/plain',
  }),
}

import { collectDefaultMetrics, Counter, Gauge, Histogram, Registry } from 'prom-client'

/** What this process counts, in the text format of Prometheus. */
export const registry = new Registry()
collectDefaultMetrics({ register: registry })

export const requestSeconds = new Histogram({
  name: 'bilancio_request_seconds',
  help: 'Time to answer a request, by route and status',
  labelNames: ['method', 'route', 'status'] as const,
  buckets: [0.01, 0.03, 0.1, 0.3, 1, 3, 5, 10, 30],
  registers: [registry],
})

export const refusedBusy = new Counter({
  name: 'bilancio_busy_total',
  help: 'Requests answered 503 because others were at it',
  registers: [registry],
})

export const faults = new Counter({
  name: 'bilancio_faults_total',
  help: 'Requests answered 500: faults of ours',
  registers: [registry],
})

export const state = new Gauge({
  name: 'bilancio_state',
  help: 'Counts of what waits, by what: jobs, letters, bank files, bank lines, sessions, entries',
  labelNames: ['what'] as const,
  registers: [registry],
})

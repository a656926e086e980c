import { randomUUID } from 'node:crypto'
import { defineEventHandler, getHeader, setHeader, type H3Event } from 'h3'
import { db } from '../db/connection'
import { log } from '../log'
import { requestSeconds } from '../metrics'
import { ProblemError } from '../services/common/problems'
import { accessRules } from '../services/people/access'
import { isOurHost } from '../services/people/network'
import { answerProblem } from '../utils/problem'
import { isHttps } from '../utils/session'

/**
 * A connection that waits is kept longer than browsers and proxies keep theirs, so that none is closed just
 * when its next request is on the way.
 */
const KEEP_ALIVE_MS = 75_000

function keepConnections(event: H3Event): void {
  const { server } = event.node.req.socket as {
    server?: { keepAliveTimeout: number; headersTimeout: number }
  }
  if (!server) return
  server.keepAliveTimeout = KEEP_ALIVE_MS
  server.headersTimeout = KEEP_ALIVE_MS + 5000
}

/** Before anything else: the request gets its id, is counted, and must be meant for us. */
export default defineEventHandler(async event => {
  const started = process.hrtime.bigint()
  keepConnections(event)
  const requestId = randomUUID()
  event.context.requestId = requestId
  setHeader(event, 'x-request-id', requestId)
  if (isHttps()) setHeader(event, 'strict-transport-security', 'max-age=31536000; includeSubDomains')
  event.node.res.once('close', () => {
    const seconds = Number(process.hrtime.bigint() - started) / 1e9
    const { method } = event
    const { statusCode: status } = event.node.res
    const route = String(event.context.route ?? (event.path.startsWith('/api/') ? 'none' : 'page'))
    requestSeconds.observe({ method, route, status }, seconds)
    log.info({ request: requestId, method, route, status, ms: Math.round(seconds * 1000) }, 'request')
  })
  try {
    const host = getHeader(event, 'host')
    // This machine itself needs no look at Setup, so health answers when the database does not.
    if (isOurHost(host, [])) return
    const { hosts } = await accessRules(db())
    if (isOurHost(host, hosts)) return
    throw new ProblemError(
      421,
      'Not our name',
      'the application is not reached by this name: list it under Setup, Access, or in BILANCIO_HOSTS',
    )
  } catch (error) {
    return answerProblem(event, error)
  }
})

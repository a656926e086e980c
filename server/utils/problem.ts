import { setHeader, setResponseStatus, type H3Event } from 'h3'
import type { Problem } from '../../contract/common'
import { faultOf, log } from '../log'
import { faults, refusedBusy } from '../metrics'
import { documentOf, problemFor, ProblemError } from '../services/common/problems'

/** A fault of the framework that is the caller's, such as a path that cannot be decoded. */
function ofFramework(error: unknown): ProblemError | undefined {
  const status = (error as { statusCode?: number }).statusCode
  return status && status >= 400 && status < 500
    ? new ProblemError(status, 'Not as asked', (error as Error).message)
    : undefined
}

/** For want of a sign-in, of a right, of a name of ours; after too many tries. */
const REFUSED = new Set([401, 403, 421, 429])

/** Answers an error as a problem document (RFC 9457). What is a fault of ours goes to the log. */
export function answerProblem(event: H3Event, error: unknown): Problem {
  const known = problemFor(error) ?? ofFramework(error)
  const request = String(event.context.requestId ?? '')
  if (!known) {
    faults.inc()
    log.error({ request, route: event.context.route, ...faultOf(error) }, 'fault')
  }
  const problem =
    known ??
    new ProblemError(
      500,
      'Our fault',
      `something went wrong on our side, nothing was changed: try again, and tell us if it happens twice ` +
        `(request ${request})`,
    )
  if (problem.status === 503) refusedBusy.inc()
  // Who was refused what: what a watch wants to see pile up (OWASP ASVS 5.0, 16.3).
  if (REFUSED.has(problem.status)) {
    const { route, personId: person } = event.context
    log.warn({ request, route, person, status: problem.status }, 'refused')
  }
  setResponseStatus(event, problem.status)
  setHeader(event, 'content-type', 'application/problem+json')
  if (problem.retryAfter !== undefined) setHeader(event, 'retry-after', problem.retryAfter)
  return documentOf(problem)
}

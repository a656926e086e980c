import type { Fault } from '../../../contract/common'

/** An error that the caller can mend: becomes a problem document (RFC 9457). */
export class ProblemError extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    detail: string,
    readonly errors: Fault[] = [],
  ) {
    super(detail)
  }
}

export const notFound = (what: string, satisfy = 'check the number') =>
  new ProblemError(404, 'Not found', `${what} does not exist, or is not among your customers: ${satisfy}`)

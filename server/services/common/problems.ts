import type { Fault, Problem } from '../../../contract/common'
import { codeOf, messageOf } from '../../db/retry'
import { Busy } from '../../db/patience'
import { NoRoom } from '../../db/room'
import { NoRate } from '../../ledger/rates'
import { LedgerRefused } from '../../ledger/command'
import { NotAllowed } from '../../ledger/rights'

/** An error that the caller can mend: becomes a problem document (RFC 9457). */
export class ProblemError extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    detail: string,
    readonly errors: readonly Fault[] = [],
    /** Seconds after which the same may succeed, for 429 and 503. */
    readonly retryAfter?: number,
  ) {
    super(detail)
  }
}

export const notFound = (what: string, satisfy = 'check the number') =>
  new ProblemError(404, 'Not found', `${what} does not exist, or is not among your customers: ${satisfy}`)

/** The answer is bounded, whatever was sent: so many faults, each of so many characters. */
const MOST_FAULTS = 1000
const LONGEST = 500
export const cutText = (text: string, max = LONGEST) =>
  text.length > max ? `${text.slice(0, max - 1)}…` : text

const cutFault = ({ path, message, satisfy, rule, line, column }: Fault): Fault => ({
  path: cutText(path, 200),
  message: cutText(message),
  ...(rule === undefined ? {} : { rule }),
  ...(satisfy === undefined ? {} : { satisfy: cutText(satisfy) }),
  ...(line === undefined ? {} : { line }),
  ...(column === undefined ? {} : { column }),
})

export function documentOf(error: ProblemError): Problem {
  const errors = error.errors.slice(0, MOST_FAULTS).map(cutFault)
  return {
    type: 'about:blank',
    title: error.title,
    status: error.status,
    detail: cutText(error.message, 2 * LONGEST),
    ...(errors.length ? { errors } : {}),
  }
}

const busy = (why: string, seconds: number) =>
  new ProblemError(
    503,
    'Busy',
    `${why}: nothing was changed, try again in ${seconds === 1 ? 'a second' : `${seconds} seconds`}`,
    [],
    seconds,
  )

const WRONG_LETTERS = () =>
  new ProblemError(
    422,
    'Not as asked',
    'a number, code or currency holds a letter that none of ours has: use plain letters and digits',
  )

const DISK_FULL = () =>
  new ProblemError(
    507,
    'Disk full',
    'the disk that the books are kept on is full: nothing was changed. Free some room, then do it again',
    [],
    30,
  )

/**
 * What the database refuses, in words; codes as in its list of errors (MariaDB, Error Codes). The only place
 * that maps them: all others see a problem.
 */
const REFUSED: Record<string, () => ProblemError> = {
  ER_DUP_ENTRY: () =>
    new ProblemError(
      409,
      'Taken meanwhile',
      'someone else saved the same number meanwhile: reload and try again',
    ),
  ER_CANT_AGGREGATE_2COLLATIONS: WRONG_LETTERS,
  ER_CANT_AGGREGATE_3COLLATIONS: WRONG_LETTERS,
  ER_CANT_AGGREGATE_NCOLLATIONS: WRONG_LETTERS,
  ER_TRUNCATED_WRONG_VALUE_FOR_FIELD: WRONG_LETTERS,
  ER_LOCK_DEADLOCK: () => busy('somebody else is working on the same at this moment', 2),
  ER_LOCK_WAIT_TIMEOUT: () => busy('somebody else is working on the same at this moment', 2),
  ER_CHECKREAD: () => busy('somebody else is working on the same at this moment', 2),
  ER_STATEMENT_TIMEOUT: () => busy('this took the database too long', 5),
  ER_CON_COUNT_ERROR: () => busy('the database has no connection left', 2),
  ER_TOO_MANY_USER_CONNECTIONS: () => busy('the database has no connection left', 2),
  ER_NET_PACKET_TOO_LARGE: () =>
    new ProblemError(413, 'Too large', 'this is more than the database takes at once: split it'),
  ER_DISK_FULL: DISK_FULL,
  ER_RECORD_FILE_FULL: DISK_FULL,
  ER_ERROR_ON_WRITE: DISK_FULL,
  ER_TEMP_FILE_WRITE_FAILURE: DISK_FULL,
  ENOSPC: DISK_FULL,
  EDQUOT: DISK_FULL,
}

const AWAY = new Set([
  'ECONNREFUSED',
  'ECONNRESET',
  'EPIPE',
  'ETIMEDOUT',
  'PROTOCOL_CONNECTION_LOST',
  'ER_SERVER_SHUTDOWN',
  'ER_CONNECTION_KILLED',
])

/** The problem that an error is for the caller; undefined when it is a fault of ours. */
export function problemFor(error: unknown): ProblemError | undefined {
  if (error instanceof ProblemError) return error
  if (error instanceof LedgerRefused)
    return new ProblemError(
      409,
      'Refused by the ledger',
      error.message,
      error.refusals.map(r => ({ path: r.path, message: r.message, rule: r.rule, satisfy: r.satisfy })),
    )
  if (error instanceof NotAllowed)
    return new ProblemError(
      403,
      'Not allowed',
      error.message,
      error.path ? [{ path: error.path, message: 'needs authority' }] : [],
    )
  if (error instanceof NoRate)
    return new ProblemError(
      409,
      'No exchange rate',
      `${error.message}: enter or import the rate of ${error.currency} under Exchange rates`,
    )
  if (error instanceof NoRoom) return DISK_FULL()
  if (error instanceof Busy) return busy(error.message, error.seconds)
  const code = codeOf(error) ?? (error as { code?: string }).code ?? ''
  const refused = REFUSED[code]
  if (refused) return refused()
  // The storage engine tells the operating system's error in words: 28 is "no space left on device".
  if (code === 'ER_GET_ERRNO' && /\b28\b/.test(messageOf(error))) return DISK_FULL()
  const { name } = error as Error
  if (name === 'SequelizeConnectionAcquireTimeoutError') return busy('many people are at work', 2)
  if (AWAY.has(code) || name === 'SequelizeConnectionRefusedError')
    return new ProblemError(
      503,
      'No database',
      'the database does not answer: nothing was changed, try again in a moment',
      [],
      5,
    )
  return undefined
}

import pino from 'pino'
import { codeOf } from './db/retry'

/**
 * What happens, a line of JSON each. No personal data: no names, addresses, e-mails, queries or bodies; a
 * person is an id, a path is the pattern of its route. BILANCIO_LOG sets the level: `warn` unless said,
 * `info` for a line per request.
 */
export const log = pino({
  level: process.env.BILANCIO_LOG ?? 'warn',
  base: { process: process.pid },
  timestamp: pino.stdTimeFunctions.isoTime,
})

/** Values that an error tells of: quoted, or long runs of digits. */
const withoutValues = (text: string) =>
  text
    .replace(/'[^']*'|"[^"]*"|`[^`]*`/g, '?')
    .replace(/\d{4,}/g, '#')
    .slice(0, 300)

/** An error for the log: what kind, where in our code, and what it says without the values it says it of. */
export function faultOf(error: unknown): { fault: string; code?: string; says: string; at: string[] } {
  if (!(error instanceof Error)) return { fault: typeof error, says: '', at: [] }
  const code = codeOf(error) ?? (error as { code?: string }).code
  return {
    fault: error.name,
    ...(code ? { code } : {}),
    // The text of a database error holds the statement with its values.
    says: codeOf(error) ? '' : withoutValues(error.message),
    at: (error.stack ?? '')
      .split('\n')
      .filter(line => /^\s+at /.test(line))
      .slice(0, 8)
      .map(line => line.trim()),
  }
}

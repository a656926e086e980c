/** The code of the database for an error, such as ER_DUP_ENTRY; undefined for an error of ours. */
export const codeOf = (error: unknown): string | undefined =>
  (error as { original?: { code?: string } }).original?.code

/** What the database said about an error; it may hold values of the row. */
export const messageOf = (error: unknown): string =>
  (error as { original?: { message?: string } }).original?.message ?? ''

const PASSING = new Set(['ER_LOCK_DEADLOCK', 'ER_LOCK_WAIT_TIMEOUT', 'ER_CHECKREAD'])

/**
 * Whether the same again may succeed: a deadlock, or a wait that was too long. Everything was rolled back.
 */
export const isPassing = (error: unknown): boolean => PASSING.has(codeOf(error) ?? '')

export const TRIES = 12

/** Longer with each try, and by chance, so that those who met once do not meet again. */
export const backOff = (attempt: number): Promise<void> =>
  new Promise(resolve => setTimeout(resolve, Math.min(500, 8 * 2 ** attempt) * (0.5 + Math.random())))

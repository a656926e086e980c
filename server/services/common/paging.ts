import { ProblemError } from './problems'

type Key = (string | number)[]

/** A keyset cursor: the sort values of the last row of a page. */
export function encodeCursor(values: Key): string {
  return Buffer.from(JSON.stringify(values)).toString('base64url')
}

export function decodeCursor(text: string | undefined, length: number): Key | null {
  if (!text) return null
  try {
    const values = JSON.parse(Buffer.from(text, 'base64url').toString()) as unknown
    if (
      Array.isArray(values) &&
      values.length === length &&
      values.every(v => typeof v === 'string' || (typeof v === 'number' && Number.isFinite(v)))
    )
      return values as Key
  } catch {
    /* answered below */
  }
  throw new ProblemError(
    400,
    'Not a cursor',
    'the cursor is not one of ours: use the value of "next" from the page before',
    [{ path: 'cursor', message: 'not a cursor' }],
  )
}

/** "-total" → column and direction. */
export function sortOf(
  sort: string,
  columns: Record<string, string>,
): { column: string; descending: boolean } {
  const descending = sort.startsWith('-')
  return { column: columns[sort.replace(/^-/, '')]!, descending }
}

/** Rows of a page that was asked for with one row too many. */
export function cut<T>(rows: T[], limit: number, key: (row: T) => Key): { items: T[]; next: string | null } {
  const items = rows.slice(0, limit)
  return { items, next: rows.length > limit ? encodeCursor(key(items[items.length - 1]!)) : null }
}

/** Text for LIKE, with its wildcards taken literally. */
export const like = (text: string) => `%${text.replace(/[\\%_]/g, '\\$&')}%`

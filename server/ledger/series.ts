import { z } from 'zod'
import { cell } from '../db/rows'
import type { Handle } from '../db/handle'

/** The number of a series that was taken, by its place among those taken together. */
export type Take = (i: number) => string

const takeSeriesRow = z.object({
  name: cell.text,
  next: cell.whole,
  prefix: cell.text,
  width: cell.whole,
})

/**
 * Takes so many numbers from each series, without gaps: the rows stay locked until the transaction ends. All
 * that a posting needs is taken in one go, by name, so that two postings never hold a series the other waits
 * for.
 */
export async function takeSeries(
  tx: Handle,
  wanted: ReadonlyMap<string, number>,
): Promise<Map<string, Take>> {
  const names = [...wanted.keys()].sort()
  if (!names.length) return new Map()
  // One statement adds and answers. A series that is not there comes back as it was put: without a width.
  const rows = await tx.rows(
    takeSeriesRow,
    `INSERT INTO series (name, prefix, next, width)
      VALUES ${names.map((_, i) => `(:name${i}, '', :n${i}, 0)`).join(', ')}
      ON DUPLICATE KEY UPDATE next = next + VALUES(next)
      RETURNING name, prefix, next, width`,
    Object.fromEntries(
      names.flatMap((name, i) => [
        [`name${i}`, name],
        [`n${i}`, wanted.get(name)!],
      ]),
    ),
  )
  const missing = rows.find(r => r.width === 0)
  if (missing) throw new Error(`number series ${missing.name} does not exist`)
  return new Map(
    rows.map(r => {
      const first = r.next - wanted.get(r.name)!
      return [r.name, i => r.prefix + String(first + i).padStart(r.width, '0')]
    }),
  )
}

/** So many numbers of one series. */
export async function takeNumbers(tx: Handle, series: string, n: number): Promise<Take> {
  return (await takeSeries(tx, new Map([[series, n]]))).get(series)!
}

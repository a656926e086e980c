import type { Handle } from '../db/handle'

/** The number of a series that was taken, by its place among those taken together. */
export type Take = (i: number) => string

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
  const rows = await tx.select<{ name: string; next: number; prefix: string; width: number }>(
    'SELECT name, next, prefix, width FROM series WHERE name IN (:names) ORDER BY name FOR UPDATE',
    { names },
  )
  const missing = names.find(name => !rows.some(r => r.name === name))
  if (missing) throw new Error(`number series ${missing} does not exist`)
  await tx.run(
    `UPDATE series SET next = next + CASE name ${names.map(() => 'WHEN ? THEN ?').join(' ')} END
      WHERE name IN (${names.map(() => '?').join(', ')})`,
    [...names.flatMap(name => [name, wanted.get(name)!]), ...names],
  )
  return new Map(rows.map(r => [r.name, i => r.prefix + String(r.next + i).padStart(r.width, '0')]))
}

/** So many numbers of one series. */
export async function takeNumbers(tx: Handle, series: string, n: number): Promise<Take> {
  return (await takeSeries(tx, new Map([[series, n]]))).get(series)!
}

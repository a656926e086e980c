import { MEASURE_NAMES, MEASURES } from '../../../core/measures'
import type { Handle } from '../../db/handle'
import type { Scope } from '../people/scope'
import { sheetFile, type SheetFile } from '../common/sheet'
import { readMeasures } from './measures'

/** Measures as a file: a row for each day and group; money in major units. */
export async function exportMeasures(
  database: Handle,
  q: Parameters<typeof readMeasures>[1] & { format: 'csv' | 'xlsx' },
  scope: Scope,
): Promise<SheetFile> {
  const { asOf, base, points, groups } = await readMeasures(database, q, scope)
  const all = [{ key: '', name: 'All', points }, ...groups]
  const columns = [
    { header: 'date', width: 12 },
    { header: 'group' },
    { header: 'name', width: 30 },
    ...MEASURE_NAMES.map(name => ({
      header: MEASURES[name].label,
      width: 16,
      ...(MEASURES[name].unit === 'money' ? { currency: base } : {}),
    })),
  ]
  return sheetFile(
    `measures-${asOf}`,
    q.format,
    columns,
    all.flatMap(group =>
      group.points.map(p => [
        p.date,
        group.key,
        group.name,
        ...MEASURE_NAMES.map(name => p.figures[name] ?? null),
      ]),
    ),
  )
}

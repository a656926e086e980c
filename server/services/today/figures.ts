import { dayNumber, type IsoDate } from '../../../core/calendar'
import { addFigures, noFigures, type DayFigures } from '../../../core/today'
import type { Handle } from '../../db/handle'
import { answer, askImage, slicesOf } from '../../image'
import type { Scope } from '../people/scope'

/** So many of the newly overdue are listed. */
const MOST = 12

/** The figures of the first screen, from memory or from slices of the tables. */
export async function readFigures(
  database: Handle,
  dates: { today: IsoDate; since: IsoDate; monthEnd: IsoDate },
  scope: Scope,
): Promise<DayFigures> {
  const question = {
    today: dayNumber(dates.today),
    since: dayNumber(dates.since),
    monthEnd: dayNumber(dates.monthEnd),
    most: MOST,
    wanted: { ids: null, salesId: scope.salesId },
  }
  const found = await askImage(database, 'day', question, 'waits')
  if (found) return found
  const figures = noFigures()
  for await (const books of slicesOf(database, question.wanted))
    addFigures(figures, answer(books, 'day', question), MOST)
  return figures
}

import { z } from 'zod'
import { cell } from '../../db/rows'
import type { IsoDate } from '../../../core/calendar'
import type { Handle } from '../../db/handle'

/** In SQL: the factor that the item `i` lies with; null when it does not. */
export const AT_FACTOR = `(SELECT f.name FROM factor_item t JOIN factor_schedule s ON s.id = t.schedule_id
  JOIN factor_facility f ON f.id = s.facility_id
  WHERE t.item_id = i.id AND t.live = 1 AND t.state IN ('sent', 'accepted') LIMIT 1)`

const lentAgainstRow = z.object({
  itemId: cell.whole,
  terms: cell.text,
})

/** Items that lay with a factor with recourse on a day: still ours, though their money was had. */
export async function lentAgainst(database: Handle, date: IsoDate): Promise<number[]> {
  const rows = await database.rows(
    lentAgainstRow,
    `SELECT t.item_id AS itemId, f.terms FROM factor_item t JOIN factor_schedule s ON s.id = t.schedule_id
      JOIN factor_facility f ON f.id = s.facility_id WHERE t.live = 1 AND t.accepted_on <= :date
      AND (t.state = 'accepted' OR t.collected_on > :date)`,
    { date },
  )
  const hasRecourse = (terms: string) => (JSON.parse(terms) as { recourse: boolean }).recourse
  return rows.filter(r => hasRecourse(r.terms)).map(r => r.itemId)
}

const withFactorsRow = z.object({
  itemId: cell.whole,
  name: cell.text,
  terms: cell.text,
})

/** Open items of customers that a factor has and the debtor was told of, by id: its name. */
export async function withFactors(
  database: Handle,
  customerIds: readonly number[],
): Promise<Map<number, string>> {
  const rows = await database.rows(
    withFactorsRow,
    `SELECT t.item_id AS itemId, f.name, f.terms FROM factor_item t JOIN factor_schedule s ON s.id = t.schedule_id
      JOIN factor_facility f ON f.id = s.facility_id
      WHERE t.customer_id IN (:customerIds) AND t.live = 1 AND t.state = 'accepted'`,
    { customerIds },
  )
  const isTold = (terms: string) => (JSON.parse(terms) as { disclosed: boolean }).disclosed
  return new Map(rows.filter(r => isTold(r.terms)).map(r => [r.itemId, r.name]))
}

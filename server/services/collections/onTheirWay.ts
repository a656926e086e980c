import { z } from 'zod'
import { cell } from '../../db/rows'
import type { IsoDate } from '../../../core/calendar'
import { ON_ITS_WAY_SQL } from '../../../core/collections'
import type { Handle } from '../../db/handle'

export interface OnItsWay {
  id: number
  number: string
  on: IsoDate
}

const collectionsOnTheirWayRow = z.object({
  id: cell.whole,
  number: cell.text,
  on: cell.day,
  itemId: cell.whole,
})

/** Items of customers whose money is on its way by direct debit, each with its collection and day. */
export async function collectionsOnTheirWay(
  database: Handle,
  customerIds: readonly number[],
): Promise<Map<number, OnItsWay>> {
  const rows = await database.rows(
    collectionsOnTheirWayRow,
    `SELECT t.item_id AS itemId, k.id, k.number, k.collect_on AS \`on\` FROM collection k
      JOIN collection_item t ON t.collection_id = k.id
      WHERE k.customer_id IN (:customerIds) AND k.state IN (${ON_ITS_WAY_SQL}) ORDER BY k.id`,
    { customerIds },
  )
  return new Map(rows.map(({ itemId, ...way }) => [itemId, way]))
}

import { z } from 'zod'
import { cell } from '../../../db/rows'
import { Op } from '../../../db/where'
import { circle, type Parents } from '../../../../core/accounts'
import type { MasterValues } from '../../../../contract/accounts/master'
import type { Fault } from '../../../../contract/common'
import type { Handle } from '../../../db/handle'

/** Fields of a master that name another record, with the column that keeps its id. */
const COLUMNS = { parent: 'parent_id', controller: 'controller_id', sales: 'sales_id' } as const
type Reference = keyof typeof COLUMNS
export const REFERENCES = Object.keys(COLUMNS) as Reference[]

const fault = (path: string, message: string, satisfy: string): Fault => ({ path, message, satisfy })

const idInRow = z.object({
  id: cell.whole,
})

async function idIn(db: Handle, field: Reference, value: string): Promise<number | undefined> {
  const sql =
    field === 'parent'
      ? 'SELECT id FROM customer WHERE number = :value AND merged_into IS NULL'
      : 'SELECT id FROM person WHERE email = :value AND active = 1'
  const [row] = await db.rows(idInRow, sql, { value })
  return row?.id
}

/** Who stands under whom. */
export async function parentsOf(db: Handle): Promise<Parents> {
  const rows = await db.find(
    'customer',
    { parent_id: { [Op.not]: null } },
    { columns: { id: 'id', parentId: 'parent_id' } },
  )
  return new Map(rows.map(r => [r.id, r.parentId]))
}

/**
 * Ids by column of the references that change, and what is wrong with them. `customerId`: of who changes;
 * null for one that is not there yet.
 */
export async function resolveReferences(
  db: Handle,
  customerId: number | null,
  set: Partial<MasterValues>,
): Promise<{ columns: Record<string, number | null>; faults: Fault[] }> {
  const columns: Record<string, number | null> = {}
  const faults: Fault[] = []
  for (const field of REFERENCES) {
    const value = set[field]?.trim()
    if (value === undefined) continue
    const id = value ? await idIn(db, field, value) : null
    if (id === undefined)
      faults.push(
        fault(
          field,
          `${value} is not there`,
          field === 'parent' ? 'check the number' : 'choose one of the people',
        ),
      )
    else columns[COLUMNS[field]] = id
  }
  const parent = columns.parent_id
  if (customerId !== null && typeof parent === 'number') {
    const way = circle(await parentsOf(db), customerId, parent)
    if (way) {
      const names = await db.find('customer', { id: way }, { columns: ['id', 'number'] })
      const numberOf = new Map(names.map(n => [n.id, n.number]))
      const round = way.map(id => numberOf.get(id)).join(', under ')
      faults.push(
        fault('parent', `that would be a circle: ${round}`, 'choose one that does not stand under it'),
      )
    }
  }
  return { columns, faults }
}

/** Brings the topmost head of every customer up to date after parents changed. */
export async function settleHeads(tx: Handle): Promise<void> {
  await tx.run(
    `UPDATE customer c LEFT JOIN (
        WITH RECURSIVE tree AS (
          SELECT id, id AS head FROM customer WHERE parent_id IS NULL
            AND id IN (SELECT parent_id FROM customer WHERE parent_id IS NOT NULL)
          UNION ALL SELECT m.id, t.head FROM customer m JOIN tree t ON m.parent_id = t.id)
        SELECT id, head FROM tree) t ON t.id = c.id
      SET c.head_id = NULLIF(t.head, c.id) WHERE NOT (c.head_id <=> NULLIF(t.head, c.id))`,
  )
}

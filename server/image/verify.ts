import { z } from 'zod'
import { cell } from '../db/rows'
import { dayNumber } from '../../core/calendar'
import type { Handle } from '../db/handle'
import type { Difference } from '../ledger/verify'
import type { Image } from './image'

/** A day after all others: what is open on it is what is open now. */
const LAST_DAY = dayNumber('2199-12-31')

const imageDifferencesRow = z.object({
  items: cell.sum,
  allocations: cell.sum,
})

const imageDifferencesAccountDayRow = z.object({
  day: cell.text,
  balance: cell.sum,
})

/**
 * Holds an image against the tables: how many rows it has, what is open of each item, and at each month end
 * what all is worth against the control accounts. Nothing may be posted meanwhile.
 */
export async function imageDifferences(database: Handle, image: Image): Promise<Difference[]> {
  await image.catchUp()
  const { ledger } = image
  const differences: Difference[] = []
  const differ = (what: string, row: string, expected: unknown, found: unknown) => {
    if (String(expected) !== String(found))
      differences.push({ what, row, expected: String(expected), found: String(found) })
  }
  const [counts] = await database.rows(
    imageDifferencesRow,
    'SELECT (SELECT COUNT(*) FROM item) AS items, (SELECT COUNT(*) FROM allocation) AS allocations',
  )
  differ('rows in memory', 'items', counts!.items, ledger.items.count)
  differ('rows in memory', 'allocations', counts!.allocations, ledger.allocations.count)

  const rows = await database.find(
    'open_item',
    {},
    { columns: { id: 'item_id', open: 'open', base: 'base_open' } },
  )
  const expected = new Map(rows.map(r => [r.id, r]))
  const { table } = image.openAt({ day: LAST_DAY, known: null })
  const { id, debit } = ledger.items.column
  for (let row = 0; row < ledger.items.count; row++) {
    const sign = debit[row] === 1 ? 1 : -1
    const said = expected.get(id[row]!)
    const kept = `${said?.open ?? 0} / ${said?.base ?? 0}`
    const { amount, base } = table.openOf(row)
    differ('open in memory', `item ${id[row]}`, kept, `${sign * amount || 0} / ${sign * base || 0}`)
  }

  let listed = 0
  for (let place = 0; place < table.count; place++)
    if (table.amount[place] !== 0 || table.base[place] !== 0) listed++
  differ('rows in memory', 'open items listed', rows.length, listed)

  const months = await database.rows(
    imageDifferencesAccountDayRow,
    `SELECT m.day, (SELECT SUM(d.base_amount) FROM account_day d JOIN ledger_account a ON a.number = d.account
        WHERE a.purpose IN ('receivables', 'advances') AND d.date <= m.day) AS balance
      FROM (SELECT DISTINCT LAST_DAY(date) AS day FROM entry) m ORDER BY m.day`,
  )
  for (const { day, balance } of months) {
    const { whole } = image.openAt({ day: dayNumber(day), known: null }).table
    differ('month end in memory', day, balance ?? 0, whole)
  }
  return differences
}

import { performance } from 'node:perf_hooks'
import { facilityBody } from '../../contract/factoring'
import { writeSetting } from '../../server/db/settings'
import { imageHere, keepImage } from '../../server/image'
import { readProposal } from '../../server/services/factoring/candidates'
import { keepFacility } from '../../server/services/factoring/facilities'
import { offerInvoices } from '../../server/services/factoring/offer'
import { postAllowance, readAllowance } from '../../server/services/impairment/allowance'
import { postWriteOff } from '../../server/services/impairment/writeOff'
import { actor, database, small, TODAY } from './base'
import { tell } from './image'

const OFFERED = small ? 200 : 20_000
const LOST = small ? 50 : 5000
const count = (n: number) => n.toLocaleString('en')

async function seconds<T>(what: string, goal: number, work: () => Promise<T>): Promise<T> {
  const begun = performance.now()
  const made = await work()
  tell(what, `${((performance.now() - begun) / 1000).toFixed(1)} s (goal ${goal})`)
  return made
}

/** What is set aside for all open items, a schedule for a factor, and many small balances given up. */
export async function losses(): Promise<void> {
  await writeSetting(database, 1, 'signOff', { 'write-off': { EUR: 100_000_000_000 } })
  keepImage(database, imageHere(database))
  const ask = { factor: 10_000, reason: '' }
  await readAllowance(database, { ...ask, date: '2026-09-30' })
  await seconds('Allowance over all open items, worked out', 5, () =>
    readAllowance(database, { ...ask, date: '2026-10-31' }),
  )
  await seconds('The same posted, from the tables', 5, () =>
    postAllowance(database, actor, { ...ask, date: '2026-10-31' }),
  )
  const terms = facilityBody.parse({
    ...{ name: 'Bench Factors', recourse: false, disclosed: false, currencies: ['EUR'] },
    ...{ advanceRate: 8000, commissionRate: 100, taxRate: 2000, interestRate: 600, eligible: {} },
    accounts: { current: '1310', commission: '6911', interest: '6931', tax: '2210' },
  })
  await keepFacility(database, actor, 'BENCH', terms)
  const proposal = await seconds(`Schedule of ${count(OFFERED)} invoices proposed`, 5, () =>
    readProposal(database, { facility: 'BENCH', currency: 'EUR', limit: OFFERED }),
  )
  await seconds(`${count(OFFERED)} invoices offered`, 30, () =>
    offerInvoices(database, actor, {
      ...{ facility: 'BENCH', currency: 'EUR' },
      itemIds: proposal.chosen.map(c => c.itemId),
    }),
  )
  const open = await database.select<{ id: number }>(
    `SELECT o.item_id AS id FROM open_item o JOIN item i ON i.id = o.item_id WHERE o.open > 0
      AND i.kind = 'invoice' AND NOT EXISTS (SELECT 1 FROM factor_item t WHERE t.item_id = i.id)
      AND i.posting_date <= :today ORDER BY o.item_id LIMIT ${LOST}`,
    { today: TODAY },
  )
  await seconds(`${count(open.length)} small balances written off`, 30, () =>
    postWriteOff(database, actor, {
      items: open.map(({ id }) => ({ itemId: id })),
      ...{ reason: 'small', text: 'not worth a letter', commission: 'kept' },
    }),
  )
}

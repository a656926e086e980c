import type { Handle } from '../server/db/handle'
import { writeSetting } from '../server/db/settings'
import { perform } from '../server/ledger/command'
import { allowanceCommand } from '../server/services/impairment/allowance'
import { addCase, listCases } from '../server/services/impairment/cases'
import { writeOffCommand } from '../server/services/impairment/writeOff'
import { receiveCommand } from '../server/services/receipts/commands'
import type { Actor } from '../server/services/people/scope'
import { IMPAIRMENT_POLICY } from '../core/impairment'
import { DEMO_TODAY } from './people'

interface People {
  controller: Actor
  cash: Actor
  supervisor: Actor
}

/** The day on which the court was told of. */
const TOLD_ON = '2026-11-12'
/** Of each debt the administrator pays so much, in per cent. */
const DIVIDEND = 6

interface Lost {
  id: number
  customer: string
  open: number
}

/** All that the customer with the longest overdue debt owes, of those who get no goods any more. */
async function lostDebts(database: Handle): Promise<Lost[]> {
  const rows = await database.select<Omit<Lost, 'open'> & { open: unknown }>(
    `SELECT i.id, c.number AS customer, o.open FROM open_item o JOIN item i ON i.id = o.item_id
      JOIN customer c ON c.id = i.customer_id WHERE o.open > 0 AND i.posting_date <= :toldOn
      AND c.id = (SELECT x.customer_id FROM open_item x JOIN item y ON y.id = x.item_id
        JOIN customer z ON z.id = x.customer_id
        WHERE x.open > 0 AND x.currency = 'EUR' AND y.kind = 'invoice' AND z.parent_id IS NULL
        AND NOT EXISTS (SELECT 1 FROM item t WHERE t.customer_id = z.id AND t.posting_date > :toldOn)
        AND NOT EXISTS (SELECT 1 FROM dispute d WHERE d.customer_id = z.id AND d.resolution = '')
        ORDER BY y.due_date, y.id LIMIT 1) ORDER BY i.id`,
    { toldOn: TOLD_ON },
  )
  return rows.map(r => ({ ...r, open: Number(r.open) }))
}

/** What was set aside at the end of September; since then one debtor is judged by name. */
async function setAside(database: Handle, people: People): Promise<void> {
  await perform(database, people.controller, allowanceCommand, { date: '2026-09-30' })
  const { suggestions } = await listCases(database)
  const [worst] = suggestions
  if (!worst) return
  await addCase(database, people.controller, {
    customer: worst.customer.number,
    itemId: worst.item?.id,
    kind: worst.kind,
    rate: 5000,
    text: 'half of it may come, says the lawyer',
  })
}

/** An insolvency that was closed in one step, and a dividend that came today and waits to be found. */
export async function loadImpairment(database: Handle, people: People): Promise<void> {
  await writeSetting(database, people.supervisor.id, 'impairmentPolicy', {
    ...IMPAIRMENT_POLICY,
    ...{ smallMost: 2000, smallDays: 14 },
  })
  const lost = await lostDebts(database)
  if (!lost.length) return
  await writeSetting(database, people.supervisor.id, 'clock', TOLD_ON)
  await perform(database, people.controller, writeOffCommand, {
    items: lost.map(({ id }) => ({ itemId: id })),
    reason: 'insolvency',
    text: 'the court opened proceedings; claim filed with the administrator',
    commission: 'kept',
  })
  await writeSetting(database, people.supervisor.id, 'clock', DEMO_TODAY)
  await setAside(database, people)
  const amount = Math.round((lost.reduce((sum, l) => sum + l.open, 0) * DIVIDEND) / 100)
  await perform(database, people.cash, receiveCommand, {
    customer: lost[0]!.customer,
    date: DEMO_TODAY,
    means: [{ means: 'transfer', amount, reference: 'dividend of the administrator' }],
    onAccount: amount,
  })
}

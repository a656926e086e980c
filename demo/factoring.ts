import type { Handle } from '../server/db/handle'
import { writeSetting } from '../server/db/settings'
import { takeFactorFiles } from '../server/services/factoring/answers'
import { readProposal } from '../server/services/factoring/candidates'
import { factorsOf, keepFacility } from '../server/services/factoring/facilities'
import { offerInvoices } from '../server/services/factoring/offer'
import type { Actor } from '../server/services/people/scope'
import { bankFolder, factorFolder } from '../server/wiring'
import { forgetInvoices } from '../simulators/bank'
import { factorDay } from '../simulators/factor'
import { DEMO_TODAY } from './people'

interface People {
  supervisor: Actor
  treasurer: Actor
}

/** A Friday: on Monday, the first day of the demo, the factor advances. */
const OFFERED_ON = '2026-11-13'
const INVOICES = 12

/** One factor, and a schedule that it has accepted: its advance comes when the Clock moves. */
export async function loadFactoring(database: Handle, people: People): Promise<void> {
  await keepFacility(database, people.supervisor, 'TERN', {
    name: 'Tern Receivables Finance',
    iban: 'IE12ZZZZ99000055556666',
    recourse: true,
    disclosed: false,
    currencies: ['EUR'],
    advanceRate: 8500,
    commissionRate: 90,
    commissionFloor: 500,
    taxRate: 2300,
    interestRate: 450,
    interestReference: 'ECB',
    yearDays: 360,
    limit: 60_000_000,
    debtorLimit: 6_000_000,
    concentration: null,
    recourseDays: 90,
    eligible: { mostAge: 60, mostTerm: 60, countries: [], classes: [], least: 100_000 },
    accounts: { current: '1310', commission: '6911', interest: '6931', tax: '2210' },
    version: 0,
  })
  await writeSetting(database, people.supervisor.id, 'clock', OFFERED_ON)
  const { chosen } = await readProposal(database, { facility: 'TERN', currency: 'EUR', limit: 400 })
  // Of customers that nothing else is told of, an invoice each.
  const quiet = await database.select<{ number: string }>(
    `SELECT c.number FROM customer c WHERE c.parent_id IS NULL
      AND NOT EXISTS (SELECT 1 FROM dispute d WHERE d.customer_id = c.id)
      AND NOT EXISTS (SELECT 1 FROM promise m WHERE m.customer_id = c.id)
      AND NOT EXISTS (SELECT 1 FROM hold h WHERE h.customer_id = c.id)
      AND NOT EXISTS (SELECT 1 FROM mandate a WHERE a.customer_id = c.id)`,
  )
  const allowed = new Set(quiet.map(c => c.number))
  const offered = [...new Map(chosen.map(c => [c.customer.number, c])).values()]
    .filter(c => allowed.has(c.customer.number))
    .slice(-INVOICES)
  await offerInvoices(database, people.treasurer, {
    facility: 'TERN',
    currency: 'EUR',
    itemIds: offered.map(c => c.itemId),
  })
  // Their debtors pay the factor, not us.
  forgetInvoices(
    bankFolder(),
    offered.map(c => c.number),
  )
  const [factor] = await factorsOf(database, OFFERED_ON)
  factorDay(factorFolder(), OFFERED_ON, factor!)
  await takeFactorFiles(database, people.treasurer)
  await writeSetting(database, people.supervisor.id, 'clock', DEMO_TODAY)
}

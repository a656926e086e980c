import { Op } from '../server/db/where'
import { whatIf } from '../contract/forecast'
import { addDays, type IsoDate } from '../core/calendar'
import type { Handle } from '../server/db/handle'
import { writeSetting } from '../server/db/settings'
import { planPayments } from '../server/services/forecast/planned'
import { keepRecord, weekStart } from '../server/services/forecast/tested'
import { keepWhatIf } from '../server/services/forecast/whatIfs'
import type { Actor } from '../server/services/people/scope'

/** What Wrackline pays out by rule, and how far it may overdraw. All made up. */
export async function planDemoPayments(
  database: Handle,
  people: { treasurer: Actor; supervisor: Actor },
  today: IsoDate,
): Promise<void> {
  const rule = { currency: 'EUR', until: null, into: null }
  const monthly = { ...rule, every: 'month' as const }
  const ids = await planPayments(database, people.treasurer, [
    { ...monthly, name: 'Wages', kind: 'wages', amount: 42_500_000, from: '2026-08-27' },
    { ...monthly, name: 'Social insurance', kind: 'wages', amount: 12_900_000, from: '2026-08-14' },
    { ...rule, name: 'VAT return', kind: 'tax', amount: 38_500_000, from: '2026-08-19', every: 'quarter' },
    { ...monthly, name: 'Rent of the drying sheds', kind: 'rent', amount: 2_400_000, from: '2026-08-01' },
    {
      ...rule,
      name: 'Harvesters and boats',
      kind: 'supplier',
      amount: 24_900_000,
      from: '2026-08-07',
      every: 'week',
    },
    {
      ...rule,
      name: 'New baling press',
      kind: 'supplier',
      amount: 22_000_000,
      from: addDays(today, 36),
      every: 'once',
    },
  ])
  // The rules stand since summer: forecasts of past weeks knew them.
  await database.update('planned_payment', { on_date: '2026-08-01' }, { every: { [Op.ne]: 'once' } })
  await writeSetting(database, people.supervisor.id, 'forecastPolicy', { floor: -20_000_000, alert: 20 })
  await keepWhatIf(database, people.treasurer, {
    name: 'The press in January',
    whatIf: whatIf.parse({ payments: [{ id: ids.at(-1)!, days: 45 }] }),
  })
  await keepWhatIf(database, people.treasurer, {
    name: 'Remind everybody',
    whatIf: whatIf.parse({ campaign: true }),
  })
  await keepWhatIf(database, people.treasurer, {
    name: 'Ship nothing to held accounts',
    whatIf: whatIf.parse({ stopHeld: true }),
  })
}

/** Forecasts of the last weeks, as they were kept then. */
export async function keepDemoRecords(database: Handle, today: IsoDate): Promise<void> {
  for (let weeks = 6; weeks > 0; weeks--) await keepRecord(database, addDays(weekStart(today), -7 * weeks))
}

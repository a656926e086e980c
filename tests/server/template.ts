import { addDays, daysBetween } from '../../core/calendar'
import { openDatabase } from '../../server/db/connection'
import { migrate } from '../../server/db/migrate'
import { seedBasics } from '../../server/db/seed'
import { writeSetting } from '../../server/db/settings'
import { takeRates } from '../../server/services/rates/rates'
import { simulatedRates } from '../../simulators/rates'
import { CREATED, TEMPLATE, TODAY, urlOf } from './places'

// Migrated once for all suites, before the first of them: none waits for another, however slow the machine.

/** Rates of some currencies around the year of the tests. */
const QUOTED = { ...simulatedRates, currencies: ['GBP', 'NOK', 'USD', 'JPY', 'KWD'] }
const FIRST = '2026-05-01'
const RATE_DAYS = Array.from({ length: daysBetween(FIRST, '2026-12-31') }, (_, i) => addDays(FIRST, i))

const admin = openDatabase(process.env.TEST_DATABASE_URL!, 1)
await admin.run(`CREATE DATABASE ${TEMPLATE} ${CREATED}`)
await admin.close()
const database = openDatabase(urlOf(TEMPLATE), 1)
await migrate(database)
await seedBasics(database)
await database.run(`INSERT INTO person (email, name, role, password_hash)
  VALUES ('s@example.org', 'Sam Over', 'supervisor', 'x')`)
await writeSetting(database, 1, 'clock', TODAY)
await takeRates(database, 'EUR', QUOTED, RATE_DAYS)
await database.close()

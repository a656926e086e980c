import type { Handle } from './handle'
import { SequelizeStorage, Umzug } from 'umzug'
import * as ledger from './migrations/0001-ledger'
import * as reminders from './migrations/0002-reminders'
import * as adjustments from './migrations/0003-adjustments'
import * as tray from './migrations/0004-tray'
import * as bank from './migrations/0005-bank'
import * as batches from './migrations/0006-batches'
import * as sundry from './migrations/0007-sundry'
import * as met from './migrations/0008-met'
import * as foundations from './migrations/0009-foundations'
import * as ids from './migrations/0010-ids'
import * as access from './migrations/0011-access'
import * as payers from './migrations/0012-payers'
import * as imports from './migrations/0013-imports'
import * as customers from './migrations/0014-customers'
import * as signOff from './migrations/0015-sign-off'
import * as exposure from './migrations/0016-exposure'
import * as review from './migrations/0017-review'
import * as chasing from './migrations/0018-chasing'
import * as ports from './migrations/0019-ports'
import * as dunning from './migrations/0020-dunning'
import * as runWarnings from './migrations/0021-run-warnings'
import * as payments from './migrations/0022-payments'
import * as cardSlips from './migrations/0023-card-slips'
import * as impairment from './migrations/0024-impairment'
import * as allowance from './migrations/0025-allowance'
import * as factoring from './migrations/0026-factoring'
import * as insolvencyClaims from './migrations/0027-insolvency-claims'
import * as closingLink from './migrations/0028-closing-link'
import * as forecast from './migrations/0029-forecast'
import * as forecastKept from './migrations/0030-forecast-kept'

const migrations = [
  ledger,
  reminders,
  adjustments,
  tray,
  bank,
  batches,
  sundry,
  met,
  foundations,
  ids,
  access,
  payers,
  imports,
  customers,
  signOff,
  exposure,
  review,
  chasing,
  ports,
  dunning,
  runWarnings,
  payments,
  cardSlips,
  impairment,
  allowance,
  factoring,
  insolvencyClaims,
  closingLink,
  forecast,
  forecastKept,
]

/** Brings the schema to the newest version. Answers the names of what was applied. */
export async function migrate(database: Handle): Promise<string[]> {
  const umzug = new Umzug({
    migrations: migrations.map(m => ({
      name: m.name,
      up: async () => {
        for (const sql of m.up) await database.run(sql)
      },
    })),
    storage: new SequelizeStorage({ sequelize: database.sequelize, tableName: 'migration' }),
    logger: undefined,
  })
  return (await umzug.up()).map(m => m.name)
}

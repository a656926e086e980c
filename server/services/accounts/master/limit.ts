import { z } from 'zod'
import {
  FIELDS,
  LIMIT_FIELDS,
  limitFaults,
  rise,
  type Field,
  type Value,
  type Values,
} from '../../../../core/accounts'
import { convert, isCurrency } from '../../../../core/money'
import { refuse } from '../../../../core/ledger'
import { rateOf, rateRefusals } from '../../../../core/rates'
import type { Handle } from '../../../db/handle'
import { changes, type Settings } from '../../../db/settings'
import { command, type By } from '../../../ledger/command'
import { loadState } from '../../../ledger/load'
import { idOfCustomer } from '../customers'
import { keepChange } from './history'
import { masterRow, valuesOf, type MasterRow } from './read'
import { asText, labelOf } from './words'

const limitValues = z.partialRecord(
  z.enum(LIMIT_FIELDS as [Field, ...Field[]]),
  z.union([z.string(), z.number(), z.null()]),
)

/** A limit as it is to be, and as it was seen by who asks. */
export const limitAsk = z.object({
  customer: z.string().min(1).max(32),
  seen: limitValues,
  set: limitValues,
  reason: z.string().max(200),
})

const currencyOf = (values: Values, base: string) => String(values.limitCurrency || base)

/** What a change of a limit would make of it, field by field in words. */
function changesOf(now: Values, set: Values, base: string) {
  const [before, after] = [currencyOf(now, base), currencyOf({ ...now, ...set }, base)]
  return (Object.keys(set) as Field[]).map(field => ({
    field: labelOf(field),
    before: asText(field, now[field], before),
    after: asText(field, set[field], after),
  }))
}

/** Writes columns of a customer and keeps what changed; answers the new version. */
export async function writeFields(
  tx: Handle,
  by: By,
  row: MasterRow,
  columns: Record<string, Value>,
  told: { reason: string; fields: { field: string; before: string; after: string }[] },
): Promise<number> {
  const version = row.version + 1
  const names = Object.keys(columns)
  await tx.run(
    `UPDATE customer SET ${names.map(name => `${name} = :${name}, `).join('')}version = :version WHERE id = :id`,
    { ...columns, version, id: row.id },
  )
  await keepChange(tx, by.id, row.number, { version, ...told })
  await changes(tx, 'customers')
  return version
}

/** Changes the limit of a customer: what is insured and when it holds belong to it. */
export const limitCommand = command({
  name: 'accounts.limit',
  ability: 'customers.edit',
  input: limitAsk,
  locks: async (db, input) => ({ customers: [await idOfCustomer(db, input.customer)] }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const row = await masterRow(db, input.customer, {})
    const [ofClass] = await db.find(
      'customer_class',
      { code: String(row.class) },
      { columns: { limit: 'credit_limit' } },
    )
    const currency = currencyOf({ ...valuesOf(row), ...input.set }, settings.base)
    const ledger = await loadState(
      db,
      { customerIds: [row.id], rates: [{ currency, date: settings.today }] },
      settings,
    )
    return { row, ledger, ofClass: ofClass?.limit ?? null, base: settings.base }
  },
  decide: ({ row, ledger, base }, input) => {
    const ask = { seen: input.seen, set: input.set }
    const refusals = limitFaults(ask, valuesOf(row) as Values).map(f =>
      refuse('limit.field', f.field, f.message, f.satisfy),
    )
    const currency = currencyOf({ ...valuesOf(row), ...input.set } as Values, base)
    if (isCurrency(currency)) refusals.push(...rateRefusals(ledger, currency, ledger.today, 'limitCurrency'))
    if (row.mergedInto !== null)
      refusals.push(
        refuse(
          'customer.merged',
          'customer',
          `the account is one with ${row.mergedInto}`,
          'ask for that one',
        ),
      )
    if (row.closedOn !== null)
      refusals.push(refuse('customer.closed', 'customer', 'the account is closed', 'open it again first'))
    return refusals.length ? { ok: false, refusals } : { ok: true, postings: [], facts: null }
  },
  stake: ({ row, ledger, ofClass, base }, input) => {
    const now = valuesOf(row) as Values
    const currency = currencyOf({ ...now, ...input.set }, base)
    // The limit of a class is in base currency: it is no measure of one in another.
    const amount = rise(now, { ...now, ...input.set }, currency === base ? ofClass : null)
    const rate = rateOf(ledger, currency, ledger.today)
    const baseAmount = amount === null || rate === undefined ? null : convert(amount, currency, base, rate)
    return { kind: 'limit' as const, amount, currency, baseAmount, customerId: row.id }
  },
  changes: ({ row, base }, input) => changesOf(valuesOf(row) as Values, input.set, base),
  after: async ({ db, input, state, actor }) => {
    const set = input.set
    const columns = Object.fromEntries(
      (Object.keys(set) as Field[]).map(field => [FIELDS[field].column, set[field] ?? null]),
    )
    const fields = changesOf(valuesOf(state.row) as Values, set, state.base)
    const version = await writeFields(db, actor, state.row, columns, { reason: input.reason, fields })
    return { version }
  },
  about: input => input.customer,
})

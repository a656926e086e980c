import { z } from 'zod'
import { cell } from '../../../db/rows'
import {
  faultsOf,
  FIELDS,
  FIELD_NAMES,
  LIMIT_FIELDS,
  normal,
  type Field,
  type Value,
  type Values,
} from '../../../../core/accounts'
import { MASTER_FIELDS, masterValues } from '../../../../contract/accounts/master'
import type {
  ChangeBody,
  Contact,
  createBody,
  MasterField,
  MasterValues,
} from '../../../../contract/accounts/master'
import type { Fault } from '../../../../contract/common'
import type { Handle } from '../../../db/handle'
import { changes, readSettings } from '../../../db/settings'
import { wouldDecide } from '../../../ledger/command'
import { inBaseToday } from '../../../ledger/rates'
import { keepWaiting, performOrKeep } from '../../../ledger/waiting'
import { ProblemError } from '../../common/problems'
import type { Actor, Scope } from '../../people/scope'
import { confirmBankCommand } from './bank'
import { limitToKeep } from './classLimit'
import { historyOf, keepChange } from './history'
import { limitCommand, writeFields } from './limit'
import { contactsOf, masterRow, valuesOf, type MasterRow } from './read'
import { resolveReferences, settleHeads } from './references'
import { asText, labelOf } from './words'

const isLimit = (field: MasterField): boolean => (LIMIT_FIELDS as readonly string[]).includes(field)
const BANK: readonly Field[] = ['iban', 'bic', 'bankHolder']

const refusedFields = (faults: readonly Fault[]) =>
  new ProblemError(422, 'Not as asked', `${faults[0]!.path}: ${faults[0]!.message}`, faults)

/** Values as they are kept. */
function normalised(set: Partial<MasterValues>): Partial<MasterValues> {
  const kept = Object.entries(set).map(([field, value]) => [
    field,
    field in FIELDS ? normal(field as Field, value as Value) : String(value).trim(),
  ])
  return Object.fromEntries(kept) as Partial<MasterValues>
}

const own = (values: Partial<MasterValues>): Values =>
  Object.fromEntries(Object.entries(values).filter(([field]) => field in FIELDS))

const fieldFaultsRow = z.object({
  x: cell.sum,
})

async function fieldFaults(db: Handle, values: Partial<MasterValues>): Promise<Fault[]> {
  const faults: Fault[] = faultsOf(own(values)).map(f => ({ path: f.field, ...f }))
  const known = async (field: 'class' | 'policy', table: 'customer_class' | 'reminder_policy') => {
    const code = values[field]
    if (
      !code ||
      (await db.rows(fieldFaultsRow, `SELECT 1 AS x FROM ${table} WHERE code = :code`, { code })).length
    )
      return
    faults.push({ path: field, message: `there is no ${field} ${code}`, satisfy: 'choose one that is there' })
  }
  await known('class', 'customer_class')
  await known('policy', 'reminder_policy')
  return faults
}

/** The fields of an ask that say otherwise than what is there. */
function differing(now: MasterValues, set: Partial<MasterValues>): Partial<MasterValues> {
  return Object.fromEntries(
    (Object.keys(set) as MasterField[])
      .filter(field => (set[field] ?? '') !== (now[field] ?? ''))
      .map(field => [field, set[field]]),
  )
}

/** A record that only finds another is not changed any more. */
const isOneWith = ({ number, mergedInto }: MasterRow) =>
  new ProblemError(409, 'One with another', `${number} is ${mergedInto} now: change that one`)

/** Somebody changed the customer since it was read: says who, and what. */
async function stale(db: Handle, row: MasterRow, version: number): Promise<ProblemError> {
  const since = await historyOf(db, row.number, version)
  const told = since.map(h => ({
    path: h.field,
    message: `${h.by} changed ${h.field} from “${h.before}” to “${h.after}”`,
    satisfy: 'look at it as it is now, then change it again',
  }))
  const who = [...new Set(since.map(h => h.by))].join(' and ') || 'somebody else'
  const what = [...new Set(since.map(h => h.field))].join(', ') || 'it'
  return new ProblemError(
    409,
    'Changed meanwhile',
    `${who} changed ${what} of ${row.number} since you opened it: nothing of yours was saved`,
    told,
  )
}

async function writeContacts(tx: Handle, by: Actor, customerId: number, contacts: readonly Contact[]) {
  await tx.remove('contact', { customer_id: customerId })
  await tx.insert(
    'contact',
    contacts.map(({ money, reminders, statements, collections, ...c }) => ({
      customer_id: customerId,
      ...c,
      money: Number(money),
      reminders: Number(reminders),
      statements: Number(statements),
      collections: Number(collections),
      person_id: by.id,
    })),
  )
}

const ROLES = ['money', 'reminders', 'statements', 'collections'] as const

/** Contacts in words, each with what they are for. */
const contactsText = (contacts: readonly Contact[]) =>
  contacts
    .map(c => {
      const roles = ROLES.filter(role => c[role]).join(', ')
      return [c.name, c.job, c.email, c.phone, roles && `(${roles})`].filter(Boolean).join(' ')
    })
    .join('; ')

/** What is changed at once: all but the limit, in one transaction. Answers version and fields. */
async function changeAtOnce(
  database: Handle,
  actor: Actor,
  number: string,
  { version, contacts, reason }: ChangeBody,
  set: Partial<MasterValues>,
): Promise<{ version: number; applied: MasterField[]; row: MasterRow; keptLimit: number | null }> {
  return database.transaction(async tx => {
    // Customers change one after another: so no two of them make a circle together.
    await changes(tx, 'customers')
    await tx.find('customer', { number }, { columns: ['id'], lock: true })
    const row = await masterRow(tx, number, {})
    if (row.mergedInto !== null) throw isOneWith(row)
    if (row.version !== version) throw await stale(tx, row, version)
    const now = valuesOf(row)
    const asked = differing(now, set)
    const { columns, faults } = await resolveReferences(tx, row.id, asked)
    faults.push(...(await fieldFaults(tx, { ...now, ...asked })))
    if (asked.currency !== undefined)
      faults.push({
        path: 'currency',
        message: `the account is kept in ${now.currency}`,
        satisfy: 'open another account for another currency',
      })
    if (faults.length) throw refusedFields(faults)
    const atOnce = (Object.keys(asked) as MasterField[]).filter(field => !isLimit(field))
    const before = await contactsOf(tx, row.id)
    const told = atOnce.map(field => ({
      field: labelOf(field),
      before: asText(field, now[field], now.currency),
      after: asText(field, asked[field], now.currency),
    }))
    if (contacts && contactsText(before) !== contactsText(contacts)) {
      told.push({ field: 'Contacts', before: contactsText(before), after: contactsText(contacts) })
      await writeContacts(tx, actor, row.id, contacts)
    }
    if (!told.length) return { version, applied: [], row, keptLimit: null }
    const keptLimit = asked.class === undefined ? null : await limitToKeep(tx, now, asked.class)
    const kept: Record<string, Value> = { ...columns }
    for (const field of atOnce)
      if (field in FIELDS) kept[FIELDS[field as Field].column] = asked[field] ?? null
    if (keptLimit !== null) {
      const { amount, currency } = keptLimit
      kept.credit_limit = amount
      told.push({ field: labelOf('creditLimit'), before: '', after: asText('creditLimit', amount, currency) })
    }
    if (atOnce.some(field => (BANK as readonly string[]).includes(field))) {
      kept.bank_changed_by = actor.id
      kept.bank_changed_at = new Date().toISOString().slice(0, 23).replace('T', ' ')
    }
    const next = await writeFields(tx, actor, row, kept, { reason, fields: told })
    if ('parent_id' in columns) await settleHeads(tx)
    return { version: next, applied: atOnce, row, keptLimit: keptLimit?.amount ?? null }
  })
}

/** Asks a second person to look at bank details that are changed now. */
async function askToConfirm(database: Handle, actor: Actor, before: MasterRow): Promise<void> {
  const after = await masterRow(database, before.number, {})
  const details = (row: MasterRow) => ({
    iban: String(row.iban),
    bic: String(row.bic),
    bankHolder: String(row.bankHolder),
  })
  await keepWaiting(database, actor, confirmBankCommand, {
    customer: before.number,
    details: details(after),
    before: details(before),
  })
}

/** What is asked for of the limit, with what was seen of it; null when it stays. */
function limitAskOf(
  row: MasterRow,
  set: Partial<MasterValues>,
  reason: string,
  keptLimit: number | null = null,
) {
  const now = { ...valuesOf(row), ...(keptLimit === null ? {} : { creditLimit: keptLimit }) }
  const limits = Object.fromEntries(
    Object.entries(differing(now, keptLimit === null ? set : { creditLimit: null, ...set })).filter(
      ([field]) => isLimit(field as MasterField),
    ),
  ) as Values
  const fields = Object.keys(limits) as Field[]
  if (!fields.length) return null
  const seen = Object.fromEntries(fields.map(field => [field, (now as Values)[field] ?? null]))
  return { customer: row.number, seen, set: limits, reason }
}

async function requireDecided(
  database: Handle,
  actor: Actor,
  ask: NonNullable<ReturnType<typeof limitAskOf>>,
) {
  const { decided } = await wouldDecide(database, actor, limitCommand, ask)
  if (decided.ok) return
  const { refusals } = decided
  throw refusedFields(refusals.map(({ path, message, satisfy }) => ({ path, message, satisfy })))
}

/**
 * Changes a customer. Everything is checked first; what needs no second person is changed, a limit then waits
 * for Sign-off when it rises by more than one person may say.
 */
export async function changeCustomer(
  database: Handle,
  actor: Actor,
  number: string,
  body: ChangeBody,
  scope: Scope,
): Promise<{ version: number; applied: string[]; waiting: number | null }> {
  const seen = await masterRow(database, number, scope)
  const set = normalised(body.set)
  // What would be refused of the limit is refused before anything else is saved; faults are told together.
  const wished = limitAskOf(seen, set, body.reason)
  const isSound = faultsOf(own({ ...valuesOf(seen), ...set })).length === 0
  if (wished && isSound && seen.version === body.version) await requireDecided(database, actor, wished)
  const { version, applied, row, keptLimit } = await changeAtOnce(database, actor, seen.number, body, set)
  if (applied.some(field => (BANK as readonly string[]).includes(field)))
    await askToConfirm(database, actor, row)
  const ask = limitAskOf(row, set, body.reason, keptLimit)
  if (!ask) return { version, applied, waiting: null }
  const asked = await performOrKeep<{ version: number }>(database, actor, limitCommand, ask)
  return asked.waiting
    ? { version, applied, waiting: asked.waiting.id }
    : { version: asked.done.version, applied: [...applied, ...Object.keys(ask.set)], waiting: null }
}

/** A customer that is not there yet, as the form begins. */
const EMPTY = Object.fromEntries(
  MASTER_FIELDS.map(field => [field, masterValues.shape[field].safeParse(null).success ? null : '']),
) as MasterValues

/** Opens an account. Its limit may wait for a second person; its bank details do. */
export async function createCustomer(
  database: Handle,
  actor: Actor,
  body: z.infer<typeof createBody>,
): Promise<{ number: string; version: number; waiting: number | null }> {
  const settings = await readSettings(database)
  const { base } = settings
  const asked = { ...EMPTY, language: 'en', currency: base, ...body.values }
  const values = { ...asked, ...normalised(asked) }
  const row = await database.transaction(async tx => {
    await changes(tx, 'customers')
    const { columns, faults } = await resolveReferences(tx, null, values)
    faults.push(...(await fieldFaults(tx, values)))
    const [taken] = await tx.find('customer', { number: body.number }, { columns: ['name'] })
    if (taken)
      faults.unshift({
        path: 'number',
        message: `${body.number} is ${taken.name} already`,
        satisfy: 'choose another number',
      })
    if (faults.length) throw refusedFields(faults)
    // A limit that cannot be told in base currency would be refused when the account is there already.
    const currency = values.limitCurrency || base
    ;(await inBaseToday(tx, settings, [currency]))(1, currency)
    const kept = FIELD_NAMES.filter(field => !isLimit(field) && !BANK.includes(field))
    await tx.insert('customer', [
      {
        number: body.number,
        ...Object.fromEntries(kept.map(field => [FIELDS[field].column, values[field]])),
        ...columns,
        person_id: actor.id,
      },
    ])
    await settleHeads(tx)
    const made = await masterRow(tx, body.number, {})
    await writeContacts(tx, actor, made.id, body.contacts)
    await keepChange(tx, actor.id, body.number, {
      version: made.version,
      reason: '',
      fields: [{ field: 'Account', before: '', after: 'opened' }],
    })
    return made
  })
  const rest = Object.fromEntries(
    FIELD_NAMES.filter(field => isLimit(field) || BANK.includes(field)).map(field => [field, values[field]]),
  )
  const { version, waiting } = await changeCustomer(
    database,
    actor,
    row.number,
    { version: row.version, set: rest, reason: 'new account' },
    {},
  )
  return { number: row.number, version, waiting }
}

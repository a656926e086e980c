import { z } from 'zod'
import { fieldCells } from '../accounts/cells'
import { cell } from '../../db/rows'
import {
  FIELDS,
  FIELD_NAMES,
  LIMIT_FIELDS,
  type Field,
  type Value,
  type Values,
} from '../../../core/accounts'
import { freshRows, sameNumber } from '../../../core/documents'
import type { Refusal } from '../../../core/ledger'
import { can } from '../../../core/people'
import { CUSTOMER_COLUMNS, CUSTOMER_REFERENCES, type ImportResult } from '../../../contract/documents'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { audit, changes, readSettings } from '../../db/settings'
import type { By } from '../../ledger/command'
import { requireAbility } from '../../ledger/rights'
import { keepWaiting, performOrKeep } from '../../ledger/waiting'
import { confirmBankCommand } from '../accounts/master/bank'
import { keepChange } from '../accounts/master/history'
import { limitCommand } from '../accounts/master/limit'
import { settleHeads } from '../accounts/master/references'
import { asText, labelOf } from '../accounts/master/words'
import { checkReferences, valuesIn, type Row, type Say } from './customerRows'
import { existing, nothingImported, readTable, sampleOf, type ImportOptions, type Progress } from './table'
import { limitToKeep } from '../accounts/master/classLimit'

const CHUNK = 2000
/** So many changes are shown. */
const SHOWN_CHANGES = 200

const BANK: readonly Field[] = ['iban', 'bic', 'bankHolder']
const isLimit = (field: Field) => LIMIT_FIELDS.includes(field)

/** What a second person signs once the rest is in: limits and bank details. */
interface ToSign {
  number: string
  before: Values
  limits: Values
  isBankChanged: boolean
}

/** One customer that is there and is to change. */
interface Changed {
  id: number
  number: string
  version: number
  before: Values
  values: Values
  references: { column: (typeof CUSTOMER_REFERENCES)[number]; before: string; after: string }[]
  fields: { number: string; field: string; before: string; after: string }[]
  /** Of its class of before, when it goes to one with another limit. */
  keptLimit: Awaited<ReturnType<typeof limitToKeep>>
}

const columnsOf = (values: Values, fields: readonly Field[]): Record<string, Value> =>
  Object.fromEntries(fields.map(field => [FIELDS[field].column, values[field] ?? null]))

/**
 * Customers from a table: new ones, and with `update` those that are there where the file says otherwise. All
 * or nothing; a limit that changes, and bank details, then wait for a second person.
 */
export async function importCustomers(
  database: Handle,
  actor: By,
  text: string,
  options: ImportOptions,
  progress: Progress,
): Promise<ImportResult> {
  requireAbility(actor, 'import')
  await progress('Reading', 0, 0)
  const required = options.update ? ['number'] : ['number', 'name', 'country']
  const { table, unknownColumns } = await readTable(text, CUSTOMER_COLUMNS, required)
  const { base } = await readSettings(database)
  const faults: Refusal[] = []
  const say: Say = (line, column, message) =>
    faults.push({ rule: 'row', path: `line ${line}, ${column}`, line, column, message, satisfy: '' })
  // Who makes the rules of the house brings the limits of new customers along; others ask for them.
  const bringsLimits = can(actor.role as never, 'policy.edit')
  const result = await database.transaction(async tx => {
    if (!options.dryRun) await changes(tx, 'customers')
    const taken = await existing(
      tx,
      'SELECT number AS value FROM customer WHERE number IN (:values)',
      table.rows.map(r => r.cells.number!),
    )
    const skip = options.skipExisting || Boolean(options.update)
    const numbers = freshRows(table.rows, taken, skip, 32, 'customer')
    faults.push(...numbers.faults)
    const { fresh } = numbers
    const rows = fresh.map(r => ({ row: r, values: valuesIn(r, base, null, say) }))
    const known = options.update ? table.rows.filter(r => taken.has(sameNumber(r.cells.number ?? ''))) : []
    await checkReferences(tx, [...fresh, ...known], say)
    const changed = await changesOf(tx, known, base, say)
    if (faults.length) throw nothingImported(faults.sort((a, b) => (a.line ?? 0) - (b.line ?? 0)))
    const toSign: ToSign[] = changed
      .map(signedPart)
      .filter(s => s.isBankChanged || Object.keys(s.limits).length)
    if (!bringsLimits) toSign.push(...rows.map(newLimits).filter(s => Object.keys(s.limits).length))
    if (toSign.length) requireAbility(actor, 'customers.edit', 'credit_limit')
    if (!options.dryRun) {
      await addClasses(tx, [...rows.map(r => r.values), ...changed.map(c => c.values)])
      const kept = FIELD_NAMES.filter(field => bringsLimits || !isLimit(field))
      for (let at = 0; at < rows.length; at += CHUNK) {
        await progress('Importing', at, rows.length)
        await tx.insert(
          'customer',
          rows.slice(at, at + CHUNK).map(({ row, values }) => ({
            number: row.cells.number,
            ...columnsOf(values, kept),
            person_id: actor.id,
          })),
        )
      }
      for (const row of fresh)
        for (const column of CUSTOMER_REFERENCES)
          if (row.cells[column]) await point(tx, row.cells.number!, column, row.cells[column])
      await write(tx, actor, changed, base, progress)
      await settleHeads(tx)
      const told = { imported: rows.length, updated: changed.length, skipped: numbers.skipped }
      await audit(tx, actor.id, 'import', 'customers', null, JSON.stringify(told))
      await progress('Saving', rows.length, rows.length)
    }
    return {
      toSign,
      dryRun: options.dryRun,
      rows: table.rows.length,
      imported: rows.length,
      updated: changed.length,
      skipped: numbers.skipped - changed.length,
      unknownColumns,
      totals: [],
      sample: sampleOf(fresh),
      changes: changed.flatMap(c => c.fields).slice(0, SHOWN_CHANGES),
    }
  })
  const { toSign, ...answer } = result
  if (!options.dryRun) await askToSign(database, actor, toSign, progress)
  return {
    ...answer,
    waiting: toSign.reduce(
      (n, s) => n + Number(s.isBankChanged) + Math.min(1, Object.keys(s.limits).length),
      0,
    ),
  }
}

/** Classes that are not there yet are made. */
async function addClasses(tx: Handle, values: readonly Values[]): Promise<void> {
  const classes = new Set(
    (await tx.find('customer_class', {}, { columns: ['code'] })).map(c => c.code.toLowerCase()),
  )
  const missing = new Map<string, string>()
  for (const { class: code } of values) {
    const text = String(code ?? '')
    if (text && !classes.has(text.toLowerCase())) missing.set(text.toLowerCase(), text)
  }
  if (missing.size)
    await tx.insert(
      'customer_class',
      [...missing.values()].map(code => ({ code, name: code, terms: 'net 30', policy: 'standard' })),
    )
}

/** Lets a customer point at another record. */
async function point(
  tx: Handle,
  number: string,
  column: (typeof CUSTOMER_REFERENCES)[number],
  value: string,
) {
  const [table, key] = column === 'parent' ? ['customer', 'number'] : ['person', 'email']
  await tx.run(
    `UPDATE customer c JOIN ${table} r ON r.${key} = :value SET c.${column}_id = r.id WHERE c.number = :number`,
    { value, number },
  )
}

const changesOfRow = z.object({
  id: cell.whole,
  number: cell.text,
  version: cell.whole,
  mergedInto: cell.text.nullable(),
  controller: cell.text,
  sales: cell.text,
  parent: cell.text,
  ...fieldCells,
})

/** Where a file says otherwise of customers that are there; an empty cell leaves what is. */
async function changesOf(tx: Handle, rows: readonly Row[], base: string, say: Say): Promise<Changed[]> {
  const changed: Changed[] = []
  const own = FIELD_NAMES.map(field => `c.${FIELDS[field].column} AS ${field}`).join(', ')
  for (let at = 0; at < rows.length; at += CHUNK) {
    const some = rows.slice(at, at + CHUNK)
    const there = await tx.rows(
      changesOfRow,
      `SELECT c.id, c.number, c.version, m.number AS mergedInto, ${own}, COALESCE(p.number, '') AS parent,
        COALESCE(pc.email, '') AS controller, COALESCE(ps.email, '') AS sales
        FROM customer c LEFT JOIN customer p ON p.id = c.parent_id
        LEFT JOIN customer m ON m.id = c.merged_into
        LEFT JOIN person pc ON pc.id = c.controller_id LEFT JOIN person ps ON ps.id = c.sales_id
        WHERE c.number IN (:numbers) ORDER BY c.id FOR UPDATE`,
      { numbers: some.map(r => r.cells.number!) },
    )
    const byNumber = new Map(there.map(c => [sameNumber(c.number), c]))
    for (const row of some) {
      const { id, number, version, mergedInto, ...cells } = byNumber.get(sameNumber(row.cells.number!))!
      const before = Object.fromEntries(
        FIELD_NAMES.map(field => [
          field,
          FIELDS[field].form === 'money' && cells[field] !== null ? int(cells[field]) : cells[field],
        ]),
      ) as Values
      if (mergedInto !== null) say(row.line, 'number', `${number} is ${mergedInto} now: change that one`)
      const { currency } = row.cells
      if (currency && currency.toUpperCase() !== before.currency)
        say(row.line, 'currency', `the account is kept in ${before.currency}: that stays as it is`)
      const values = valuesIn(row, base, before, say)
      const differs = FIELD_NAMES.filter(field => (values[field] ?? '') !== (before[field] ?? ''))
      const references = CUSTOMER_REFERENCES.flatMap(column => {
        const after = row.cells[column]
        return after && sameNumber(after) !== sameNumber(cells[column])
          ? [{ column, before: cells[column], after }]
          : []
      })
      const money = (v: Values) => String(v.limitCurrency || base)
      const fields = [
        ...differs.map(field => ({
          number,
          field: FIELDS[field].column,
          before: asText(field, before[field], money(before)),
          after: asText(field, values[field], money(values)),
        })),
        ...references.map(r => ({ number, field: r.column as string, before: r.before, after: r.after })),
      ]
      const keptLimit = await limitToKeep(tx, before, values.class ?? null)
      if (fields.length) changed.push({ id, number, version, before, values, references, fields, keptLimit })
    }
  }
  return changed
}

/** Of what changes, the part that a second person signs. */
function signedPart({ number, before: seen, values, keptLimit }: Changed): ToSign {
  // Another class may bring another limit: that of before becomes the account's own until it is signed.
  const before = keptLimit ? { ...seen, creditLimit: keptLimit.amount } : seen
  const differs = (field: Field) => (values[field] ?? '') !== (before[field] ?? '')
  const limits = Object.fromEntries(LIMIT_FIELDS.filter(differs).map(field => [field, values[field] ?? null]))
  return { number, before, limits: limits as Values, isBankChanged: BANK.some(differs) }
}

/** The limit that a new customer comes with. */
function newLimits({ row, values }: { row: Row; values: Values }): ToSign {
  const limits = Object.fromEntries(
    LIMIT_FIELDS.filter(field => (values[field] ?? '') !== '').map(field => [field, values[field]!]),
  ) as Values
  return { number: row.cells.number!, before: {}, limits, isBankChanged: false }
}

/** Each change with what was there before, in the history. */
async function write(
  tx: Handle,
  actor: By,
  changed: readonly Changed[],
  base: string,
  progress: Progress,
): Promise<void> {
  for (const [n, { id, number, version, before, values, references, keptLimit }] of changed.entries()) {
    if (n % 200 === 0) await progress('Changing', n, changed.length)
    const atOnce = FIELD_NAMES.filter(f => !isLimit(f) && (values[f] ?? '') !== (before[f] ?? ''))
    const columns = columnsOf(values, atOnce)
    if (keptLimit) columns.credit_limit = keptLimit.amount
    if (atOnce.some(f => BANK.includes(f))) {
      columns.bank_changed_by = actor.id
      columns.bank_changed_at = new Date().toISOString().slice(0, 23).replace('T', ' ')
    }
    await tx.run(
      `UPDATE customer SET ${Object.keys(columns)
        .map(c => `${c} = :${c}, `)
        .join('')}version = version + 1 WHERE id = :id`,
      { ...columns, id },
    )
    for (const { column, after } of references) await point(tx, number, column, after)
    const fields = [
      ...atOnce.map(f => ({
        field: labelOf(f),
        before: asText(f, before[f], base),
        after: asText(f, values[f], base),
      })),
      ...references.map(r => ({ field: labelOf(r.column), before: r.before, after: r.after })),
      ...(keptLimit
        ? [
            {
              field: labelOf('creditLimit'),
              before: '',
              after: asText('creditLimit', keptLimit.amount, keptLimit.currency),
            },
          ]
        : []),
    ]
    if (fields.length)
      await keepChange(tx, actor.id, number, { version: version + 1, reason: 'import', fields })
  }
}

/** Asks for limits and for a look at bank details, once everything else is in. */
async function askToSign(
  database: Handle,
  actor: By,
  list: readonly ToSign[],
  progress: Progress,
): Promise<void> {
  for (const [n, { number, before, limits, isBankChanged }] of list.entries()) {
    if (n % 50 === 0) await progress('Asking for signatures', n, list.length)
    if (Object.keys(limits).length)
      await performOrKeep(database, actor, limitCommand, {
        customer: number,
        seen: Object.fromEntries(Object.keys(limits).map(field => [field, before[field as Field] ?? null])),
        set: limits,
        reason: 'import',
      })
    if (!isBankChanged) continue
    const [now] = await database.find(
      'customer',
      { number },
      { columns: { iban: 'iban', bic: 'bic', bankHolder: 'bank_holder' } },
    )
    const text = (field: Field) => String(before[field] ?? '')
    await keepWaiting(database, actor, confirmBankCommand, {
      customer: number,
      details: now!,
      before: { iban: text('iban'), bic: text('bic'), bankHolder: text('bankHolder') },
    })
  }
}

import { z } from 'zod'
import { fieldCells } from '../cells'
import { cell } from '../../../db/rows'
import { FIELDS, FIELD_NAMES, type Field, type Value } from '../../../../core/accounts'
import type { Contact, Master, MasterValues } from '../../../../contract/accounts/master'
import { int } from '../../../db/connection'
import type { Handle } from '../../../db/handle'
import { readSettings } from '../../../db/settings'
import { notFound } from '../../common/problems'
import type { Scope } from '../../people/scope'
import { WITH_CLASS } from '../inherited'
import { historyOf } from './history'

/** The columns of the master, each under the name of its field. */
const own = FIELD_NAMES.map(field => `c.${FIELDS[field].column} AS ${field}`).join(', ')

/** What the class says of the fields that are inherited from it. */
const OF_CLASS = {
  terms: `COALESCE(k.terms, 'net 30')`,
  method: `COALESCE(k.method, 'transfer')`,
  policy: `COALESCE(k.policy, 'standard')`,
  statementCycle: `COALESCE(k.statement_cycle, 'none')`,
  refunds: `COALESCE(k.refunds, 'yes')`,
  riskClass: `COALESCE(k.risk_class, '')`,
  creditLimit: 'k.credit_limit',
} satisfies Partial<Record<Field, string>>

const inherited = Object.entries(OF_CLASS)
  .map(([field, sql]) => `${sql} AS class_${field}`)
  .join(', ')

export interface MasterRow extends Record<Field, Value> {
  id: number
  number: string
  version: number
  parentId: number | null
  parent: string | null
  parentName: string | null
  controller: string | null
  controllerName: string | null
  sales: string | null
  salesName: string | null
  className: string | null
  bankChangedBy: string | null
  bankChangedAt: string | null
  closedOn: string | null
  mergedInto: string | null
}

const MASTER = `SELECT c.id, c.number, c.version, c.parent_id AS parentId, ${own}, ${inherited},
    k.name AS className, p.number AS parent, p.name AS parentName, pc.email AS controller,
    pc.name AS controllerName, ps.email AS sales, ps.name AS salesName, pb.name AS bankChangedBy,
    c.bank_changed_at AS bankChangedAt, c.closed_on AS closedOn, m.number AS mergedInto
  FROM customer c ${WITH_CLASS} LEFT JOIN customer p ON p.id = c.parent_id
    LEFT JOIN person pc ON pc.id = c.controller_id LEFT JOIN person ps ON ps.id = c.sales_id
    LEFT JOIN person pb ON pb.id = c.bank_changed_by LEFT JOIN customer m ON m.id = c.merged_into`

const masterRowRow = z.object({
  id: cell.whole,
  number: cell.text,
  version: cell.whole,
  parentId: cell.whole.nullable(),
  parent: cell.text.nullable(),
  parentName: cell.text.nullable(),
  controller: cell.text.nullable(),
  controllerName: cell.text.nullable(),
  sales: cell.text.nullable(),
  salesName: cell.text.nullable(),
  className: cell.text.nullable(),
  bankChangedBy: cell.text.nullable(),
  bankChangedAt: cell.text.nullable(),
  closedOn: cell.text.nullable(),
  mergedInto: cell.text.nullable(),
  ...fieldCells,
})

/**
 * One master as its row; inside a transaction it is held until that ends. Throws a problem when it is not
 * there.
 */
export async function masterRow(database: Handle, number: string, scope: Scope): Promise<MasterRow> {
  const [row] = await database.rows(
    masterRowRow,
    `${MASTER} WHERE c.number = :number ${scope.salesId ? 'AND c.sales_id = :salesId' : ''}`,
    { number, salesId: scope.salesId ?? 0 },
  )
  if (!row) throw notFound(`customer ${number}`)
  return row
}

/** The values of a master as they are edited. */
export function valuesOf(row: MasterRow): MasterValues {
  const values = Object.fromEntries(
    FIELD_NAMES.map(field => [
      field,
      FIELDS[field].form === 'money' && row[field] !== null ? int(row[field]) : row[field],
    ]),
  ) as Record<Field, Value>
  return {
    ...values,
    parent: row.parent ?? '',
    controller: row.controller ?? '',
    sales: row.sales ?? '',
  } as MasterValues
}

export async function contactsOf(database: Handle, customerId: number): Promise<Contact[]> {
  const rows = await database.find('contact', { customer_id: customerId })
  return rows.map(r => ({
    name: r.name,
    job: r.job,
    email: r.email,
    phone: r.phone,
    money: Boolean(r.money),
    reminders: Boolean(r.reminders),
    statements: Boolean(r.statements),
    collections: Boolean(r.collections),
  }))
}

const asChoice = ({ email, name }: { email: string; name: string }) => ({ email, name })

/** What the fields of a master are chosen from. */
export async function readChoices(database: Handle): Promise<Master['choices']> {
  const [policies, classes, people] = await Promise.all([
    database.find('reminder_policy', {}, { columns: ['code', 'name'], order: ['name'] }),
    database.find('customer_class', {}, { columns: ['code', 'name'], order: ['name'] }),
    database.find('person', { active: 1 }, { columns: ['email', 'name', 'role'], order: ['name'] }),
  ])
  return {
    policies,
    classes,
    controllers: people.filter(p => p.role !== 'sales' && p.role !== 'auditor').map(asChoice),
    sales: people.map(asChoice),
  }
}

const readMasterRow = z.object({
  id: cell.whole,
  kind: cell.text,
  by: cell.text,
  at: cell.text,
})

/** The master of a customer: its own values, what it inherits, contacts, what waits for a second person. */
export async function readMaster(database: Handle, number: string, scope: Scope): Promise<Master> {
  const row = await masterRow(database, number, scope)
  const [settings, contacts, members, waiting, history, choices] = await Promise.all([
    readSettings(database),
    contactsOf(database, row.id),
    database.find(
      'customer',
      { parent_id: row.id },
      { columns: ['number', 'name'], order: ['name'], limit: 200 },
    ),
    database.rows(
      readMasterRow,
      `SELECT w.id, w.kind, p.name AS \`by\`, w.at FROM waiting_command w JOIN person p ON p.id = w.person_id
        WHERE w.customer_id = :id AND w.state IN ('waiting', 'returned') ORDER BY w.id`,
      { id: row.id },
    ),
    historyOf(database, row.number),
    readChoices(database),
  ])
  const cells = row as unknown as Record<string, Value>
  return {
    number: row.number,
    version: row.version,
    base: settings.base,
    values: valuesOf(row),
    inherited: Object.fromEntries(
      Object.keys(OF_CLASS).map(field => {
        const value = cells[`class_${field}`] ?? null
        return [field, field === 'creditLimit' && value !== null ? int(value) : value]
      }),
    ) as Master['inherited'],
    className: row.className ?? '',
    contacts,
    parent: row.parent ? { number: row.parent, name: row.parentName! } : null,
    members,
    bank: row.bankChangedBy ? { changedBy: row.bankChangedBy, changedAt: row.bankChangedAt! } : null,
    closedOn: row.closedOn,
    mergedInto: row.mergedInto,
    waiting,
    history,
    choices,
  }
}

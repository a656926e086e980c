import { cell } from '../../db/rows'
import { plus } from '../../db/where'
import { z } from 'zod'
import { faultsOf, rise, type Values } from '../../../core/accounts'
import { toMajor } from '../../../core/money'
import { refuse } from '../../../core/ledger'
import type { ClassRow, ClassValues } from '../../../contract/accounts/classes'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { audit, changes, type Settings } from '../../db/settings'
import { command, type By } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { performOrKeep } from '../../ledger/waiting'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'

type Row = Omit<ClassRow, 'keepOnItem' | 'customers'> & { keepOnItem: number; customers: unknown }

const CLASSES = `SELECT k.code, k.name, k.terms, k.method, k.policy, k.risk_class AS riskClass,
    k.statement_cycle AS statementCycle, k.refunds, k.credit_limit AS creditLimit, k.keep_on_item AS keepOnItem,
    k.version, (SELECT COUNT(*) FROM customer c WHERE c.class = k.code AND c.merged_into IS NULL) AS customers,
    (SELECT MAX(w.id) FROM waiting_command w WHERE w.name = 'accounts.classLimit' AND w.about = k.code
      AND w.state IN ('waiting', 'returned')) AS waiting
  FROM customer_class k`

const listClassesRow = z.object({
  code: cell.text,
  name: cell.text,
  version: cell.whole,
  terms: cell.text,
  policy: cell.text,
  method: cell.text,
  refunds: cell.text,
  waiting: cell.whole.nullable(),
  creditLimit: cell.whole.nullable(),
  riskClass: cell.text,
  statementCycle: cell.text,
  keepOnItem: cell.whole,
  customers: cell.sum,
})

export async function listClasses(database: Handle): Promise<{ items: ClassRow[]; waiting: null }> {
  const rows = await database.rows(listClassesRow, `${CLASSES} ORDER BY k.name`)
  return {
    items: rows.map(r => ({ ...r, keepOnItem: Boolean(r.keepOnItem), customers: int(r.customers) })),
    waiting: null,
  }
}

async function classRow(database: Handle, code: string): Promise<Row> {
  const [row] = await database.rows(listClassesRow, `${CLASSES} WHERE k.code = :code`, { code })
  if (!row) throw notFound(`customer class ${code}`)
  return row
}

/** Its limit is changed by a Command of its own: what one class may, all its customers may. */
type AtOnce = Omit<ClassValues, 'creditLimit'>

async function check(
  database: Handle,
  { terms, method, policy, riskClass, statementCycle, refunds }: AtOnce,
) {
  const missing = { terms, method, statementCycle, refunds }
  const faults = [
    ...Object.entries(missing)
      .filter(([, value]) => !value)
      .map(([path]) => ({ path, message: 'a class says what its customers inherit', satisfy: 'fill it in' })),
    ...faultsOf({ terms, method, riskClass, statementCycle, refunds }).map(f => ({ path: f.field, ...f })),
  ]
  if (!(await database.find('reminder_policy', { code: policy }, { columns: ['code'] })).length)
    faults.push({
      path: 'policy',
      message: `there is no policy ${policy}`,
      satisfy: 'choose one that is there',
    })
  if (faults.length)
    throw new ProblemError(422, 'Not as asked', `${faults[0]!.path}: ${faults[0]!.message}`, faults)
}

const columnsOf = (v: AtOnce) => ({
  name: v.name,
  terms: v.terms,
  method: v.method,
  policy: v.policy,
  risk_class: v.riskClass,
  statement_cycle: v.statementCycle,
  refunds: v.refunds,
  keep_on_item: v.keepOnItem ? 1 : 0,
})

export async function createClass(database: Handle, actor: Actor, body: AtOnce & { code: string }) {
  await check(database, body)
  await database.transaction(async tx => {
    await changes(tx, 'customers')
    const [taken] = await tx.find('customer_class', { code: body.code }, { columns: ['code'] })
    if (taken)
      throw new ProblemError(409, 'There already', `there is a class ${body.code} already`, [
        { path: 'code', message: 'taken', satisfy: 'choose another' },
      ])
    await tx.insert('customer_class', [{ code: body.code, ...columnsOf(body) }])
    await audit(tx, actor.id, 'class', body.code, null, JSON.stringify(columnsOf(body)))
  })
  return listClasses(database)
}

/** Changes what the customers of a class inherit; a limit that rises waits for a second person. */
export async function changeClass(
  database: Handle,
  actor: Actor,
  code: string,
  { version, creditLimit, ...values }: ClassValues & { version: number },
) {
  await check(database, values)
  const before = await database.transaction(async tx => {
    await changes(tx, 'customers')
    await tx.find('customer_class', { code }, { columns: ['code'], lock: true })
    const row = await classRow(tx, code)
    if (row.version !== version)
      throw new ProblemError(
        409,
        'Changed meanwhile',
        `somebody changed the class ${row.name}: look at it as it is now`,
      )
    const was = columnsOf({ ...row, keepOnItem: Boolean(row.keepOnItem) })
    const now = columnsOf(values)
    if (JSON.stringify(was) === JSON.stringify(now)) return row
    await tx.run(
      `UPDATE customer_class SET ${Object.keys(now)
        .map(c => `${c} = :${c}`)
        .join(', ')}, version = version + 1 WHERE code = :code`,
      { ...now, code },
    )
    await audit(tx, actor.id, 'class', row.code, JSON.stringify(was), JSON.stringify(now))
    return row
  })
  let waiting: number | null = null
  if (creditLimit !== before.creditLimit) {
    const ask = { code: before.code, seen: before.creditLimit, creditLimit, reason: '' }
    waiting = (await performOrKeep(database, actor, classLimitCommand, ask)).waiting?.id ?? null
  }
  return { ...(await listClasses(database)), waiting }
}

const limit = z.number().int().min(0).max(1_000_000_000_000).nullable()

const classLimitCommandRow = z.object({
  n: cell.sum,
})

/** Changes the limit that the customers of a class have without one of their own. */
export const classLimitCommand = command({
  name: 'accounts.classLimit',
  ability: 'policy.edit',
  input: z.object({ code: z.string().max(24), seen: limit, creditLimit: limit, reason: z.string().max(200) }),
  steady: true,
  locks: async () => ({ settings: 'change' as const }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const [inheriting] = await db.rows(
      classLimitCommandRow,
      'SELECT COUNT(*) AS n FROM customer WHERE class = :code AND credit_limit IS NULL AND merged_into IS NULL',
      { code: input.code },
    )
    return {
      row: await classRow(db, input.code),
      inheriting: int(inheriting!.n),
      ledger: await loadState(db, { customerIds: [] }, settings),
    }
  },
  decide: ({ row }, { seen }) =>
    row.creditLimit === seen
      ? { ok: true, postings: [], facts: null }
      : {
          ok: false,
          refusals: [
            refuse('limit.field', 'creditLimit', 'the limit of the class was changed meanwhile', 'ask anew'),
          ],
        },
  // What one customer may owe more, all who inherit it may.
  stake: ({ row, inheriting, ledger }, { creditLimit }) => {
    const each = rise({ creditLimit: row.creditLimit } as Values, { creditLimit } as Values, null)
    const amount = each === null ? null : each * inheriting
    return { kind: 'limit' as const, amount, currency: ledger.base, baseAmount: amount, customerId: null }
  },
  changes: ({ row, inheriting, ledger }, { creditLimit }) => {
    const words = (value: number | null) =>
      value === null ? '' : `${toMajor(value, ledger.base)} ${ledger.base}`
    return [
      { field: `Limit of the class ${row.name}`, before: words(row.creditLimit), after: words(creditLimit) },
      { field: 'Customers without a limit of their own', before: '', after: String(inheriting) },
    ]
  },
  after: async ({ db, input, state, actor }) => {
    await db.update(
      'customer_class',
      { credit_limit: input.creditLimit, version: plus('version', 1) },
      { code: state.row.code },
    )
    const told = (value: number | null) => JSON.stringify({ credit_limit: value })
    await audit(db, actor.id, 'class', state.row.code, told(state.row.creditLimit), told(input.creditLimit))
    await changes(db, 'customers')
    return { code: state.row.code }
  },
  about: input => input.code,
})

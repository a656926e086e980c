import { Op, plus } from '../../db/where'
import { z } from 'zod'
import { addMonths } from '../../../core/calendar'
import { lapsesOn, mandateRefusals, MANDATE_STATES, sequenceOf } from '../../../core/collections'
import type { MandateRow, mandates as operations } from '../../../contract/collections'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import { audit, readSettings, type Settings } from '../../db/settings'
import { takeLocks } from '../../ledger/locks'
import { LedgerRefused } from '../../ledger/refused'
import { takeNumbers } from '../../ledger/series'
import { findCustomer } from '../accounts/customers'
import { cut, decodeCursor, like } from '../common/paging'
import { notFound, ProblemError } from '../common/problems'
import type { Actor, Scope } from '../people/scope'

const cells = z.object({
  id: cell.whole,
  version: cell.whole,
  customerNumber: cell.text,
  customerName: cell.text,
  reference: cell.text,
  scheme: z.enum(['CORE', 'B2B']),
  use: z.enum(['recurring', 'one-off']),
  signedOn: cell.day,
  iban: cell.text,
  bic: cell.text,
  holder: cell.text,
  state: z.enum(['active', 'suspended', 'cancelled', 'final']),
  stateWhy: cell.text,
  lastUsed: cell.day.nullable(),
  lapse: cell.day,
  most: cell.whole.nullable(),
  noticeDays: cell.whole.nullable(),
  endsNext: cell.flag,
  wasReference: cell.text,
  wasIban: cell.text,
  wasCreditor: cell.text,
  scanId: cell.whole.nullable(),
  scanName: cell.text.nullable(),
  collected: cell.whole,
})

const MANDATE = `SELECT m.id, m.version, c.number AS customerNumber, c.name AS customerName, m.reference, m.scheme,
    m.used_for AS \`use\`, m.signed_on AS signedOn, m.iban, m.bic, m.holder, m.state, m.state_why AS stateWhy,
    m.last_used AS lastUsed, DATE_ADD(COALESCE(m.last_used, m.signed_on), INTERVAL 36 MONTH) AS lapse, m.most,
    m.notice_days AS noticeDays, m.ends_next AS endsNext, m.was_reference AS wasReference, m.was_iban AS wasIban,
    m.was_creditor AS wasCreditor, a.id AS scanId, a.name AS scanName,
    (SELECT COUNT(*) FROM collection k WHERE k.mandate_id = m.id AND k.state IN ('collected', 'returned')) AS collected
  FROM mandate m JOIN customer c ON c.id = m.customer_id LEFT JOIN attachment a ON a.id = m.attachment_id`

/** A mandate lapses soon when it does within so many months. Ours. */
const SOON_MONTHS = 3

function shown(r: z.output<typeof cells>, today: string): MandateRow {
  const lapses = lapsesOn(r)
  const isLive = r.state === 'active' || r.state === 'suspended'
  const endsNext = Boolean(r.endsNext)
  return {
    id: r.id,
    version: r.version,
    customer: { number: r.customerNumber, name: r.customerName },
    reference: r.reference,
    scheme: r.scheme,
    use: r.use,
    signedOn: r.signedOn,
    iban: r.iban,
    bic: r.bic,
    holder: r.holder,
    state: r.state,
    stateWhy: r.stateWhy,
    lastUsed: r.lastUsed,
    lapsesOn: lapses,
    lapsed: isLive && lapses <= today,
    lapsesSoon: isLive && lapses > today && lapses <= addMonths(today, SOON_MONTHS),
    next: sequenceOf({ ...r, endsNext }),
    most: r.most,
    noticeDays: r.noticeDays,
    endsNext,
    amended: [
      r.wasReference ? `its reference was ${r.wasReference}` : '',
      r.wasIban ? `its account was ${r.wasIban}` : '',
      r.wasCreditor ? `our identifier was ${r.wasCreditor}` : '',
    ].filter(Boolean),
    scan: r.scanId === null ? null : { id: r.scanId, name: r.scanName! },
    collected: int(r.collected),
  }
}

const ONLY = {
  all: '1 = 1',
  active: `m.state = 'active'`,
  lapsing: `m.state IN ('active', 'suspended')
    AND DATE_ADD(COALESCE(m.last_used, m.signed_on), INTERVAL 36 MONTH) <= DATE_ADD(:today, INTERVAL ${SOON_MONTHS} MONTH)`,
  stopped: `m.state <> 'active'`,
} as const

/** Mandates, those that lapse soonest first. */
export async function listMandates(
  database: Handle,
  q: z.output<NonNullable<(typeof operations.list)['query']>>,
  scope: Scope,
) {
  const { today } = await readSettings(database)
  const values: Values = { today, salesId: scope.salesId ?? 0 }
  const where: string[] = []
  if (scope.salesId) where.push('c.sales_id = :salesId')
  if (q.customer) {
    values.customerId = (await findCustomer(database, q.customer, scope)).id
    where.push('m.customer_id = :customerId')
  }
  if (q.search) {
    values.search = like(q.search)
    where.push(
      `(m.reference LIKE :search OR m.iban LIKE :search OR c.name LIKE :search OR c.number LIKE :search
        OR m.holder LIKE :search)`,
    )
  }
  const own = where.length ? where.join(' AND ') : '1 = 1'
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) [values.lastLapse, values.lastId] = cursor
  const [rows, [count]] = await Promise.all([
    database.rows(
      cells,
      `SELECT x.* FROM (${MANDATE} WHERE ${own} AND ${ONLY[q.only]}) x
        ${cursor ? 'WHERE (x.lapse > :lastLapse OR (x.lapse = :lastLapse AND x.id > :lastId))' : ''}
        ORDER BY x.lapse, x.id LIMIT ${q.limit + 1}`,
      values,
    ),
    database.rows(
      z.object({ count: cell.sum, lapsing: cell.sum }),
      `SELECT SUM(${ONLY[q.only]}) AS count, SUM(${ONLY.lapsing}) AS lapsing FROM mandate m
        JOIN customer c ON c.id = m.customer_id WHERE ${own}`,
      values,
    ),
  ])
  const page = cut(rows, q.limit, r => [r.lapse, r.id])
  return {
    items: page.items.map(r => shown(r, today)),
    count: int(count!.count ?? 0),
    lapsing: int(count!.lapsing ?? 0),
    next: page.next,
  }
}

export async function readMandate(database: Handle, id: number): Promise<MandateRow> {
  const { today } = await readSettings(database)
  const rows = await database.rows(cells, `${MANDATE} WHERE m.id = :id`, { id })
  if (!rows.length) throw notFound(`mandate ${id}`)
  return shown(rows[0]!, today)
}

export type MandateAsk = Omit<z.output<NonNullable<(typeof operations.add)['body']>>, 'customer'>

/** The columns of what a person says of a mandate. */
const columnsOf = (form: MandateAsk, holder: string) => ({
  scheme: form.scheme,
  used_for: form.use,
  signed_on: form.signedOn,
  iban: form.iban,
  bic: form.bic,
  holder: form.holder || holder,
  most: form.most,
  notice_days: form.noticeDays,
  attachment_id: form.attachmentId,
})

async function isTaken(db: Handle, reference: string, but: number): Promise<boolean> {
  const found = await db.find('mandate', { reference, id: { [Op.ne]: but } }, { columns: ['id'] })
  return found.length > 0
}

/** The scan must be a file of this account. */
async function requireScan(db: Handle, customerId: number, attachmentId: number | null): Promise<void> {
  if (attachmentId === null) return
  const [own] = await db.find(
    'attachment',
    { id: attachmentId, customer_id: customerId },
    { columns: ['id'] },
  )
  if (!own)
    throw new ProblemError(422, 'Not a file of the account', 'attach the scan to the account first', [
      { path: 'attachmentId', message: 'no file of this account', satisfy: 'choose one of its files' },
    ])
}

/** Puts a mandate in; in the transaction that goes on. */
export async function putMandate(
  tx: Handle,
  actor: Actor,
  settings: Settings,
  customer: { id: number; name: string; number: string },
  form: MandateAsk,
  lastUsed: string | null = null,
): Promise<number> {
  const holder = form.holder || customer.name
  const taken = form.reference !== '' && (await isTaken(tx, form.reference, 0))
  const refusals = mandateRefusals({ ...form, holder }, settings.today, taken, lastUsed)
  if (refusals.length) throw new LedgerRefused(refusals)
  await requireScan(tx, customer.id, form.attachmentId)
  const reference = form.reference || (await takeNumbers(tx, 'mandate', 1))(0)
  const [id] = await tx.insert('mandate', [
    {
      customer_id: customer.id,
      reference,
      ...columnsOf(form, customer.name),
      last_used: lastUsed,
      person_id: actor.id,
    },
  ])
  await audit(tx, actor.id, 'mandate', customer.number, null, `${reference} ${form.scheme} ${form.iban}`)
  return id!
}

export async function addMandate(
  database: Handle,
  actor: Actor,
  { customer: number, ...form }: z.output<NonNullable<(typeof operations.add)['body']>>,
): Promise<MandateRow> {
  const settings = await readSettings(database)
  const customer = await findCustomer(database, number, {})
  const id = await database.transaction(async tx => {
    await takeLocks(tx, { customers: [customer.id] })
    return putMandate(tx, actor, settings, customer, form)
  })
  return readMandate(database, id)
}

const changedMeanwhile = (reference: string) =>
  new ProblemError(409, 'Changed meanwhile', `somebody changed mandate ${reference}: reload and look again`, [
    { path: 'version', message: 'another version', satisfy: 'reload it' },
  ])

/** What it was before, for the bank: the first value that it knows of, until a collection has told it. */
const before = (known: string, was: string, now: string, isUsed: boolean): string => {
  if (!isUsed) return ''
  const first = known || was
  return first === now ? '' : first
}

/** Amends a mandate. Of one that was used, the bank is told with the next collection. */
export async function changeMandate(
  database: Handle,
  actor: Actor,
  id: number,
  { version, endsNext, ...form }: z.output<NonNullable<(typeof operations.change)['body']>>,
): Promise<MandateRow> {
  const settings = await readSettings(database)
  const old = await readMandate(database, id)
  const customer = await findCustomer(database, old.customer.number, {})
  const reference = form.reference || old.reference
  await database.transaction(async tx => {
    await takeLocks(tx, { customers: [customer.id] })
    const [row] = await tx.find('mandate', { id })
    if (!row || row.version !== version) throw changedMeanwhile(old.reference)
    if (row.state === 'cancelled' || row.state === 'final')
      throw new ProblemError(
        409,
        'Over',
        `mandate ${old.reference} is ${MANDATE_STATES[row.state].toLowerCase()}`,
      )
    const taken = await isTaken(tx, reference, id)
    const refusals = mandateRefusals(
      { ...form, reference, holder: form.holder || customer.name },
      settings.today,
      taken,
    )
    if (refusals.length) throw new LedgerRefused(refusals)
    await requireScan(tx, customer.id, form.attachmentId)
    const isUsed = row.last_used !== null
    const set = {
      reference,
      ...columnsOf(form, customer.name),
      ends_next: endsNext ? 1 : 0,
      was_reference: before(row.was_reference, row.reference, reference, isUsed),
      was_iban: before(row.was_iban, row.iban, form.iban, isUsed),
    }
    const columns = Object.keys(set)
    await tx.run(
      `UPDATE mandate SET ${columns.map(c => `${c} = :${c}`).join(', ')}, version = version + 1 WHERE id = :id`,
      { ...set, id },
    )
    const told = (m: { reference: string; iban: string; signedOn: string; most: number | null }) =>
      JSON.stringify({ reference: m.reference, iban: m.iban, signedOn: m.signedOn, most: m.most })
    await audit(tx, actor.id, 'mandate', customer.number, told(old), told({ ...form, reference }))
  })
  return readMandate(database, id)
}

/** Suspends a mandate, lets it go on, or cancels it for good. */
export async function setMandateState(
  database: Handle,
  actor: Actor,
  id: number,
  body: { version: number; state: 'active' | 'suspended' | 'cancelled'; reason: string },
): Promise<MandateRow> {
  const old = await readMandate(database, id)
  await database.transaction(async tx => {
    const done = await tx.update(
      'mandate',
      { state: body.state, state_why: body.reason, version: plus('version', 1) },
      { id, version: body.version, state: ['active', 'suspended'] },
    )
    if (!done) {
      if (old.state === 'cancelled' || old.state === 'final')
        throw new ProblemError(
          409,
          'Over',
          `mandate ${old.reference} is ${MANDATE_STATES[old.state].toLowerCase()}`,
        )
      throw changedMeanwhile(old.reference)
    }
    await audit(tx, actor.id, 'mandate', old.customer.number, old.state, `${body.state}: ${body.reason}`)
  })
  return readMandate(database, id)
}

/** Stops a mandate because of what the bank said; one that is over stays so. */
export async function suspendMandate(
  tx: Handle,
  actor: { id: number },
  id: number,
  why: string,
): Promise<void> {
  const done = await tx.update(
    'mandate',
    { state: 'suspended', state_why: why.slice(0, 200), version: plus('version', 1) },
    { id, state: 'active' },
  )
  if (done) await audit(tx, actor.id, 'mandate', String(id), 'active', `suspended: ${why}`)
}

import type { Sequelize, Transaction } from 'sequelize'
import type { z } from 'zod'
import { age } from '../../../core/aging'
import { allocate, postReceipt, reverse, unallocate } from '../../../core/receipts'
import { refuse, type Decision, type LedgerState, type Posting } from '../../../core/ledger'
import { ABILITIES, can, rolesThatCan } from '../../../core/people'
import {
  allocateBody,
  receiptBody,
  reverseBody,
  type Posted,
  type Proof,
  type receipts,
  type ReceiptBody,
  type ReceiptDetail,
  type unallocateBody,
} from '../../../contract/receipts'
import { int, select, type Replacements } from '../../db/connection'
import { readSettings } from '../../db/settings'
import { convert } from '../../../core/money'
import { posted, throughDoor, type Door } from '../../ledger/door'
import { loadLines, loadState, type Wanted } from '../../ledger/load'
import type { Written } from '../../ledger/write'
import { linesWhereMoneyIs } from '../banking/slips'
import { deductionsOfReceipt, openDeductions, type NewDeduction } from '../disputes/deductions'
import { cut, decodeCursor, like } from '../common/paging'
import { notFound, ProblemError } from '../common/problems'
import { rateOn } from '../rates/rates'
import { findCustomer, type Actor, type Customer } from '../people/scope'

type Decide = (state: LedgerState, tx?: Transaction) => Promise<Decision>
/**
 * `after`: what else is written in the same transaction. `warnings`: what is allowed but worth a second look.
 */
export interface Intent {
  customer: Customer
  wanted: Wanted
  decide: Decide
  after?: (door: Door, posting: Posting, written: Written, actor: Actor) => Promise<void>
  warnings?: (state: LedgerState) => Promise<string[]>
}

/** A body as posted, or with what may be left out left out. */
type ReceiptAsk = z.input<typeof receiptBody> & Pick<ReceiptBody, 'customer' | 'date'>

/** A late discount is granted on authority only. */
export function requireLateDiscount(actor: Actor): void {
  if (!can(actor.role, 'discount.authorise'))
    throw new ProblemError(
      403,
      'Not allowed',
      `a ${actor.role} may not ${ABILITIES['discount.authorise']}: ask a ${rolesThatCan('discount.authorise').join(' or ')}`,
      [{ path: 'lateDiscount', message: 'needs authority' }],
    )
}

export async function receiptIntent(database: Sequelize, ask: ReceiptAsk, actor?: Actor): Promise<Intent> {
  const body = receiptBody.parse(ask)
  if (body.lateDiscount && actor) requireLateDiscount(actor)
  const customer = await findCustomer(database, body.customer, {})
  const currency = body.currency ?? customer.currency
  if (body.rest?.use === 'item') {
    const [own] = await select<{ keep: number }>(
      database,
      'SELECT keep_on_item AS `keep` FROM customer_class WHERE code = :class',
      { class: customer.class },
    )
    if (!own?.keep)
      throw new ProblemError(
        422,
        'Not in this class',
        `customers of the class ${customer.class || 'none'} keep an overpayment on account, not on an item`,
        [
          {
            path: 'rest.use',
            message: 'choose on account or to refund',
            satisfy: 'allow it for the class under Setup',
          },
        ],
      )
  }
  return {
    customer,
    wanted: {
      customerIds: [customer.id],
      itemIds: [...body.allocations.map(a => a.itemId), ...(body.rest?.itemId ? [body.rest.itemId] : [])],
    },
    warnings: () => receiptWarnings(database, body, currency),
    after: async (door, posting, written, by) =>
      openDeductions(database, by.id, deductionsIn(body, posting, door.state, written.items[0]!.id), door.tx),
    decide: async (state, tx) => {
      const without = body.allocations.findIndex(a => a.deduction && leftOf(state, a) <= 0)
      if (without >= 0)
        return {
          ok: false,
          refusals: [
            refuse(
              'deduction.amount',
              `allocations.${without}.deduction`,
              'nothing is left open that could be a deduction',
              'pay less, or leave the deduction out',
            ),
          ],
        }
      const rate = await rateOn(database, state.base, currency, body.date, tx)
      if (rate === undefined) {
        throw new ProblemError(422, 'No exchange rate', `there is no rate for ${currency} on ${body.date}`, [
          {
            path: 'currency',
            message: 'no exchange rate for this currency',
            satisfy: `use ${state.base} or a currency that is quoted`,
          },
        ])
      }
      return postReceipt(state, { ...body, customerId: customer.id, currency, rate })
    },
  }
}

type Allocated = ReceiptBody['allocations'][number]
const leftOf = (state: LedgerState, a: Allocated) =>
  (state.items.get(a.itemId)?.open ?? 0) - a.amount - a.discount - a.difference

/**
 * What a receipt leaves open and calls a deduction. The state may have been brought up to date by the posting
 * already.
 */
export function deductionsIn(
  body: ReceiptBody,
  posting: Posting,
  state: LedgerState,
  receiptItemId: number,
): NewDeduction[] {
  return body.allocations.flatMap(a => {
    const item = state.items.get(a.itemId)
    if (!a.deduction || !item) return []
    return [
      {
        itemId: a.itemId,
        receiptItemId,
        currency: item.currency,
        amount: item.open,
        reason: a.deduction.reason,
        note: a.deduction.note,
      },
    ]
  })
}

/** A transfer dated before the last statement should have been on it. */
async function receiptWarnings(database: Sequelize, body: ReceiptBody, currency: string): Promise<string[]> {
  if (!body.means.some(m => m.means === 'transfer' || m.means === 'card')) return []
  const [row] = await select<{ name: string; to: string }>(
    database,
    'SELECT b.name, MAX(s.to_date) AS `to` FROM bank_statement s JOIN bank_account b ON b.id = s.bank_account_id WHERE b.currency = :currency GROUP BY b.id, b.name ORDER BY `to` DESC LIMIT 1',
    { currency },
  )
  return row && body.date <= row.to
    ? [`the statement of ${row.name} up to ${row.to} is in: look there first, the money may be booked twice`]
    : []
}

async function allocateIntent(
  database: Sequelize,
  ask: z.input<typeof allocateBody>,
  actor?: Actor,
): Promise<Intent> {
  const body = allocateBody.parse(ask)
  if (body.lateDiscount && actor) requireLateDiscount(actor)
  const customer = await findCustomer(database, body.customer, {})
  return {
    customer,
    wanted: { customerIds: [customer.id], itemIds: body.pairs.flatMap(p => [p.debitItemId, p.creditItemId]) },
    decide: async state => allocate(state, body),
  }
}

async function unallocateIntent(database: Sequelize, body: z.infer<typeof unallocateBody>): Promise<Intent> {
  const customer = await findCustomer(database, body.customer, {})
  return {
    customer,
    wanted: { customerIds: [customer.id], allocationIds: body.allocationIds },
    decide: async state => unallocate(state, body),
  }
}

async function reverseIntent(
  database: Sequelize,
  itemId: number,
  ask: z.input<typeof reverseBody>,
): Promise<Intent> {
  const body = reverseBody.parse(ask)
  const [row] = await select<{ number: string }>(
    database,
    `SELECT c.number FROM item i JOIN customer c ON c.id = i.customer_id WHERE i.id = :itemId
      AND i.kind IN ('receipt', 'advance')`,
    { itemId },
  )
  if (!row) throw notFound(`receipt ${itemId}`)
  const customer = await findCustomer(database, row.number, {})
  return {
    customer,
    wanted: { customerIds: [customer.id], linksOf: [itemId] },
    decide: async (state, tx) => {
      const item = state.items.get(itemId)
      const rate = body.fee && item ? await rateOn(database, state.base, item.currency, body.date, tx) : '1'
      const fee =
        body.fee && item && rate
          ? { amount: body.fee, baseAmount: convert(body.fee, item.currency, state.base, rate) }
          : undefined
      return reverse(state, {
        itemId,
        date: body.date,
        reason: body.reason,
        fee,
        lines: await linesWhereMoneyIs(database, state, itemId, await loadLines(database, itemId, tx), tx),
      })
    },
  }
}

export const intents = {
  receipt: receiptIntent,
  allocate: allocateIntent,
  unallocate: unallocateIntent,
  reverse: reverseIntent,
}

/** Posts an intent through the door. */
export async function postIntent(
  database: Sequelize,
  actor: Actor,
  intent: Intent,
  key?: { key: string; request: unknown },
): Promise<Posted> {
  return throughDoor(database, { ...intent.wanted, personId: actor.id, idempotency: key }, async door => {
    const posting = posted(await intent.decide(door.state, door.tx))
    const [written] = await door.write([posting])
    await intent.after?.(door, posting, written!, actor)
    return {
      entry: written!.entryNumber,
      receipt: written!.items[0] ?? null,
      allocations: written!.allocations,
    }
  })
}

/** What an intent would post and change: the same Posting value, not written. */
export async function proofOf(
  database: Sequelize,
  intent: Omit<Intent, 'customer'> & { customer: Customer | null },
): Promise<Proof> {
  const settings = await readSettings(database)
  const state = await loadState(database, intent.wanted)
  const decision = await intent.decide(state)
  const warnings = (await intent.warnings?.(state)) ?? []
  if (!decision.ok)
    return {
      ok: false,
      refusals: decision.refusals,
      base: settings.base,
      lines: [],
      changes: null,
      warnings,
      links: [],
    }
  const { posting } = decision
  const names = new Map(
    (await select<{ number: string; name: string }>(database, 'SELECT number, name FROM ledger_account')).map(
      a => [a.number, a.name],
    ),
  )
  return {
    ok: true,
    refusals: [],
    base: settings.base,
    warnings,
    lines: proofLines(posting, state, names),
    changes: intent.customer && (await changesOf(database, intent.customer, posting, settings)),
    links: posting.allocations
      .filter(a => a.undoesId !== null)
      .map(a => ({
        allocationId: a.undoesId!,
        kind: state.items.get(a.creditItemId)!.kind,
        from: state.items.get(a.creditItemId)!.number,
        to: state.items.get(a.debitItemId)!.number,
        amount: -a.amount,
        currency: state.items.get(a.debitItemId)!.currency,
      })),
  }
}

/** Lines summed by account for reading; the part of a receipt that stays on account is told apart. */
function proofLines(posting: Posting, state: LedgerState, names: Map<string, string>): Proof['lines'] {
  const merged = new Map<string, Proof['lines'][number]>()
  const add = (account: string, note: string, currency: string, amount: number, baseAmount: number) => {
    const key = `${account} ${note} ${currency}`
    const line = merged.get(key) ?? {
      account,
      name: names.get(account) ?? account,
      note,
      currency,
      amount: 0,
      baseAmount: 0,
    }
    merged.set(key, { ...line, amount: line.amount + amount, baseAmount: line.baseAmount + baseAmount })
  }
  const receipt = posting.items.find(i => i.kind === 'receipt')
  const assigned = posting.allocations.filter(a => a.creditItemId === receipt?.id)
  for (const line of posting.lines) {
    if (receipt && line.account === state.chart.receivables && line.item === receipt.id) {
      const amount = assigned.reduce((a, x) => a + x.amount, 0)
      const base = assigned.reduce((a, x) => a + x.creditBase, 0)
      if (amount) add(line.account, '', line.currency, -amount, -base)
      if (-line.amount - amount)
        add(line.account, 'on account', line.currency, line.amount + amount, line.baseAmount + base)
    } else
      add(
        line.account,
        line.allocation === null || line.account === state.chart.exchange ? '' : 'exchange',
        line.currency,
        line.amount,
        line.baseAmount,
      )
  }
  return [...merged.values()].filter(l => l.amount || l.baseAmount)
}

async function changesOf(
  database: Sequelize,
  customer: Customer,
  posting: Posting,
  settings: Awaited<ReturnType<typeof readSettings>>,
): Promise<Proof['changes']> {
  const rows = await select<{ id: number; open: unknown; date: string }>(
    database,
    'SELECT item_id AS id, base_open AS open, due_date AS date FROM open_item WHERE customer_id = :id',
    { id: customer.id },
  )
  const items = new Map(rows.map(r => [r.id, { open: int(r.open), date: r.date }]))
  const before = age(items.values(), settings.today, settings.buckets)
  for (const i of posting.items)
    items.set(i.id, { open: i.side === 'debit' ? i.baseAmount : -i.baseAmount, date: i.dueDate })
  const closedDates = await dueDates(database, posting, items)
  for (const a of posting.allocations) {
    const debit = items.get(a.debitItemId) ?? { open: 0, date: closedDates.get(a.debitItemId)! }
    items.set(a.debitItemId, { ...debit, open: debit.open - a.debitBase })
    const credit = items.get(a.creditItemId) ?? { open: 0, date: closedDates.get(a.creditItemId)! }
    items.set(a.creditItemId, { ...credit, open: credit.open + a.creditBase })
  }
  const after = age(items.values(), settings.today, settings.buckets)
  return {
    open: [before.total, after.total],
    strata: [before.amounts, after.amounts],
    onAccount: [before.onAccount, after.onAccount],
    headroom:
      customer.creditLimit === null
        ? null
        : [customer.creditLimit - before.total, customer.creditLimit - after.total],
    exchange: posting.allocations.reduce((a, x) => a + x.creditBase - x.debitBase, 0),
  }
}

/** Due dates of items that are closed now and would be open again. */
async function dueDates(
  database: Sequelize,
  posting: Posting,
  known: Map<number, unknown>,
): Promise<Map<number, string>> {
  const ids = posting.allocations
    .flatMap(a => [a.debitItemId, a.creditItemId])
    .filter(id => id > 0 && !known.has(id))
  if (!ids.length) return new Map()
  const rows = await select<{ id: number; date: string }>(
    database,
    'SELECT id, due_date AS date FROM item WHERE id IN (:ids)',
    { ids },
  )
  return new Map(rows.map(r => [r.id, r.date]))
}

const RECEIPT_ROW = `i.id, i.number, i.document_date AS date, c.number AS customerNumber,
  c.name AS customerName, i.currency, i.amount, COALESCE(-o.open, 0) AS unallocated, p.name AS \`by\`, i.text,
  (SELECT GROUP_CONCAT(DISTINCT m.means ORDER BY m.id SEPARATOR ', ') FROM receipt_means m
    WHERE m.item_id = i.id) AS means,
  (SELECT GROUP_CONCAT(NULLIF(m.reference, '') ORDER BY m.id SEPARATOR ', ') FROM receipt_means m
    WHERE m.item_id = i.id) AS reference,
  EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id) AS reversed, i.kind, i.rest_use AS restUse,
  (SELECT COUNT(*) FROM receipt_means m WHERE m.item_id = i.id) AS meansCount,
  (SELECT COUNT(*) FROM receipt_means m WHERE m.item_id = i.id AND m.account = (SELECT number
    FROM ledger_account WHERE purpose = 'on-hand') AND NOT EXISTS (SELECT 1 FROM slip_means sm
    JOIN slip s ON s.id = sm.slip_id WHERE sm.means_id = m.id AND s.void_entry_id IS NULL)) AS inTray,
  (SELECT COUNT(*) FROM receipt_means m WHERE m.item_id = i.id AND (m.account IN (SELECT account
    FROM bank_account)
    OR m.met = 1 OR EXISTS (SELECT 1 FROM slip_means sm JOIN bank_match_target t ON t.kind = 'slip'
    AND t.ref_id = sm.slip_id JOIN bank_match b ON b.id = t.match_id WHERE sm.means_id = m.id
    AND b.undone_entry_id IS NULL))) AS settledCount`
const RECEIPT_FROM = `FROM item i JOIN customer c ON c.id = i.customer_id
    JOIN person p ON p.id = i.person_id LEFT
    JOIN open_item o ON o.item_id = i.id`
interface ReceiptRow {
  id: number
  number: string
  date: string
  customerNumber: string
  customerName: string
  currency: string
  amount: number
  unallocated: unknown
  by: string
  text: string
  means: string | null
  reference: string | null
  reversed: number
  kind: 'receipt' | 'advance'
  restUse: string
  meansCount: unknown
  inTray: unknown
  settledCount: unknown
}
/** Covered becomes settled when the bank shows the money. */
function moneyState(r: ReceiptRow): ReceiptDetail['state'] {
  if (r.reversed) return 'reversed'
  const settled = int(r.settledCount)
  return settled === int(r.meansCount)
    ? 'settled'
    : settled
      ? 'partly settled'
      : int(r.inTray) === int(r.meansCount)
        ? 'tray'
        : 'covered'
}
const receiptRow = ({
  customerNumber,
  customerName,
  meansCount,
  inTray,
  settledCount,
  ...r
}: ReceiptRow) => ({
  ...r,
  state: moneyState({
    customerNumber,
    customerName,
    meansCount,
    inTray,
    settledCount,
    ...r,
  }),
  customer: { number: customerNumber, name: customerName },
  unallocated: int(r.unallocated),
  means: r.means ?? '',
  reference: r.reference ?? '',
  reversed: Boolean(r.reversed),
})

export async function listReceipts(
  database: Sequelize,
  q: z.infer<NonNullable<(typeof receipts.list)['query']>>,
) {
  const values: Replacements = {}
  const where = [`i.kind IN ('receipt', 'advance')`]
  if (q.customer) {
    where.push('c.number = :customer')
    values.customer = q.customer
  }
  if (q.state === 'unallocated') where.push('o.open < 0')
  if (q.state === 'reversed') where.push('EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id)')
  if (q.search) {
    const digits = q.search.replace(/[ ,.]/g, '')
    where.push(`(i.number LIKE :search OR c.name LIKE :search OR i.id IN (SELECT item_id FROM receipt_means
      WHERE reference LIKE :search)${/^\d+$/.test(digits) ? ' OR i.amount IN (:digits, :major)' : ''}
      OR i.id IN (SELECT a.credit_item_id FROM allocation a JOIN item d ON d.id = a.debit_item_id
        WHERE d.number = :exact))`)
    Object.assign(values, { search: like(q.search), exact: q.search, digits, major: `${digits}00` })
  }
  const matching = where.join(' AND ')
  const byCustomer = Boolean(q.customer || q.search)
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) [values.lastDate, values.lastId] = cursor
  const [rows, totals] = await Promise.all([
    // The page is chosen first: what is told of each receipt is then looked up for its rows only.
    select<ReceiptRow>(
      database,
      `SELECT ${RECEIPT_ROW} ${RECEIPT_FROM} JOIN (SELECT i.id AS chosen
      FROM item i ${byCustomer ? 'JOIN customer c ON c.id = i.customer_id' : ''}
      ${q.state === 'unallocated' ? 'JOIN open_item o ON o.item_id = i.id' : ''}
      WHERE ${matching}
      ${cursor ? 'AND (i.document_date < :lastDate OR (i.document_date = :lastDate AND i.id < :lastId))' : ''}
      ORDER BY i.document_date DESC, i.id DESC LIMIT ${q.limit + 1}) page ON page.chosen = i.id
      ORDER BY i.document_date DESC, i.id DESC`,
      values,
    ),
    select<{ currency: string; amount: unknown; unallocated: unknown; count: unknown }>(
      database,
      `SELECT i.currency, SUM(i.amount) AS amount, SUM(COALESCE(-o.open, 0)) AS unallocated, COUNT(*) AS count
        FROM item i ${byCustomer ? 'JOIN customer c ON c.id = i.customer_id' : ''} LEFT
        JOIN open_item o ON o.item_id = i.id WHERE ${matching} GROUP BY i.currency ORDER BY i.currency`,
      values,
    ),
  ])
  const page = cut(rows, q.limit, r => [r.date, r.id])
  return {
    items: page.items.map(receiptRow),
    next: page.next,
    count: totals.reduce((a, t) => a + int(t.count), 0),
    totals: totals.map(t => ({
      currency: t.currency,
      amount: int(t.amount),
      unallocated: int(t.unallocated),
    })),
  }
}

export async function readReceipt(database: Sequelize, id: number): Promise<ReceiptDetail> {
  const [row] = await select<ReceiptRow>(
    database,
    `SELECT ${RECEIPT_ROW} ${RECEIPT_FROM} WHERE i.kind IN ('receipt', 'advance') AND i.id = :id`,
    { id },
  )
  if (!row) throw notFound(`receipt ${id}`)
  const [meansLines, links, [reversal], entries, [batch], bankLines, [became], [was], deductions] =
    await Promise.all([
      select<ReceiptDetail['meansLines'][number]>(
        database,
        `SELECT m.means, m.amount, m.reference, m.account, a.name AS accountName FROM receipt_means m
          JOIN ledger_account a ON a.number = m.account WHERE m.item_id = :id ORDER BY m.id`,
        { id },
      ),
      select<Omit<ReceiptDetail['links'][number], 'undone'> & { undone: number }>(
        database,
        `
      SELECT a.id AS allocationId, c.kind AS creditKind, i.id AS itemId, i.number, i.kind,
        i.due_date AS dueDate, a.amount, a.effective, p.name AS \`by\`, a.at, a.undoes_id AS undoes,
        EXISTS (SELECT 1 FROM allocation u WHERE u.undoes_id = a.id) AS undone
      FROM allocation a JOIN item i ON i.id = a.debit_item_id JOIN item c ON c.id = a.credit_item_id
        JOIN person p ON p.id = a.person_id
      WHERE (c.id = :id OR c.born_of_item_id = :id OR c.born_of_item_id IN (SELECT k.id FROM item k
        WHERE k.born_of_item_id = :id)) AND NOT (c.born_of_item_id IS NOT NULL AND i.kind = 'reversal')
        ORDER BY a.id`,
        { id },
      ),
      select<NonNullable<ReceiptDetail['reversal']>>(
        database,
        'SELECT number, posting_date AS date, text AS reason FROM item WHERE reverses_item_id = :id',
        { id },
      ),
      select<{ number: number }>(
        database,
        `
      SELECT DISTINCT e.number FROM entry e WHERE e.id IN (SELECT entry_id FROM item WHERE id = :id UNION
        SELECT entry_id FROM item WHERE reverses_item_id = :id UNION SELECT entry_id FROM allocation
        WHERE credit_item_id = :id) ORDER BY e.number`,
        { id },
      ),
      select<{ id: number; number: string }>(
        database,
        'SELECT b.id, b.number FROM batch_receipt r JOIN batch b ON b.id = r.batch_id WHERE r.item_id = :id',
        { id },
      ),
      select<{ id: number; date: string; text: string; direct: number }>(
        database,
        `SELECT l.id, l.booking_date AS date, l.text, MAX(t.kind = 'receipt') AS direct
      FROM bank_match_target t JOIN bank_match b ON b.id = t.match_id JOIN bank_line l ON l.id = b.line_id
      WHERE b.undone_entry_id IS NULL AND (
      (t.kind IN ('receipt', 'return') AND t.ref_id = :id) OR (t.kind = 'means' AND t.ref_id IN (SELECT m.id
        FROM receipt_means m WHERE m.item_id = :id)) OR (t.kind = 'slip' AND t.ref_id IN (SELECT sm.slip_id
        FROM slip_means sm JOIN receipt_means m ON m.id = sm.means_id WHERE m.item_id = :id))
      OR (t.kind = 'reversal' AND t.ref_id IN (SELECT r.id FROM item r WHERE r.reverses_item_id = :id)))
        GROUP BY l.id, l.booking_date, l.text ORDER BY l.id`,
        { id },
      ),
      select<{ id: number; number: string }>(
        database,
        `SELECT i.id, i.number FROM put_right p JOIN item i ON i.id = p.new_item_id WHERE p.old_item_id = :id`,
        { id },
      ),
      select<{ id: number; number: string }>(
        database,
        `SELECT i.id, i.number FROM put_right p JOIN item i ON i.id = p.old_item_id WHERE p.new_item_id = :id`,
        { id },
      ),
      deductionsOfReceipt(database, id),
    ])
  return {
    ...receiptRow(row),
    meansLines,
    links: links.map(l => ({ ...l, undone: Boolean(l.undone) })),
    reversal: reversal ?? null,
    entries: entries.map(e => e.number),
    batch: batch ?? null,
    bankLines: bankLines.map(l => ({ ...l, direct: Boolean(Number(l.direct)) })),
    became: became ?? null,
    was: was ?? null,
    deductions,
  }
}

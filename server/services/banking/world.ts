import { z } from 'zod'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import {
  Matcher,
  referenceKey,
  type Closed,
  type Covered,
  type CoveredTarget,
  type MatchCustomer,
  type MatchItem,
  type MatchLine,
} from '../../../core/banking/matching'
import { plain, possibleNumbers, tokensIn } from '../../../core/banking/matching/numbers'
import { textOf } from '../../../core/banking/matching/payers'
import { addDays } from '../../../core/calendar'
import { kindList } from '../../../core/ledger'
import { mostWithin } from '../../../core/money'

import type { Settings } from '../../db/settings'
import { rateOn } from '../rates/rates'
import { customerDirectory } from './directory'
import { lumpsOf, paymentFiles } from './payments'
import { returnableOf } from './returnable'

/**
 * Above so many lines all open items of the currency are read at once; below, only those that the lines may
 * mean.
 */
const FEW = 40
const CHUNK = 5000
const MATCHABLE = kindList(k => k.matchable)

/** In SQL: whether a bank line settles something. */
export const settledBy = (kind: string, ref: string) =>
  `EXISTS (SELECT 1 FROM bank_match_target t JOIN bank_match b ON b.id = t.match_id WHERE t.kind = '${kind}'
    AND t.ref_id = ${ref} AND b.undone_entry_id IS NULL)`

/** A row of what is posted and awaited from the bank, with the base amount it was posted with. */
export interface CoveredRow extends Omit<Covered, 'kind' | 'targets'> {
  kind: CoveredTarget['kind']
  /** The ledger account where it waits. */
  account: string
  currency: string
  baseAmount: number
  receiptId: number | null
  customerNumber: string | null
  customerName: string | null
  settled: boolean
  /** A direct debit that came back, of which the bank may still show both ways. */
  returned: boolean
}

const loadCoveredRow = z.object({
  amount: cell.sum,
  id: cell.whole,
  date: cell.day,
  currency: cell.text,
  baseAmount: cell.sum,
  receiptId: cell.whole.nullable(),
  customerNumber: cell.text.nullable(),
  customerName: cell.text.nullable(),
  kind: z.enum(['means', 'reversal', 'slip', 'refund']),
  account: cell.text,
  label: cell.text,
  customerId: cell.whole.nullable(),
  reference: cell.text,
  settled: cell.flag,
  returned: cell.flag,
})

/**
 * What waits for the bank: transfers, cards and direct debits of receipts, slips, refunds, and reversals of
 * money that was at the bank already. `only` names some, told with whether they are settled; otherwise those
 * that are not.
 */
export async function loadCovered(
  database: Handle,
  currency: string | null,
  only?: readonly CoveredTarget[],
): Promise<CoveredRow[]> {
  const ids = (kind: CoveredTarget['kind']) => [
    0,
    ...(only ?? []).filter(o => o.kind === kind).map(o => o.id),
  ]
  const clearing = `(SELECT number FROM ledger_account WHERE purpose = 'clearing')`
  const payingOut = `(SELECT number FROM ledger_account WHERE purpose = 'paying-out')`
  const through = (account: string, reversal: string) =>
    `EXISTS (SELECT 1 FROM journal_line x WHERE x.item_id = ${reversal} AND x.account = ${account}
      AND x.allocation_id IS NULL)`
  // Taken back before the bank showed either: the two make nothing together.
  const takenBack = (account: string) =>
    `EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id AND ${through(account, 'r.id')}
      AND NOT ${settledBy('reversal', 'r.id')})`
  const waits = only ? 'm.id IN (:means)' : 'm.met = 0'
  const pick = (kind: CoveredTarget['kind'], ref: string) =>
    only ? `${ref} IN (:${kind})` : `NOT ${settledBy(kind, ref)}`
  const own = currency ? 'AND i.currency = :currency' : ''
  const rows = await database.rows(
    loadCoveredRow,
    `
    SELECT 'means' AS kind, m.id, i.number AS label, i.customer_id AS customerId, m.amount,
      m.base_amount AS baseAmount, i.document_date AS date, i.currency, m.reference, i.id AS receiptId,
      c.number AS customerNumber, c.name AS customerName, m.met AS settled, m.account,
      ${takenBack(clearing)} AS returned
    FROM receipt_means m JOIN item i ON i.id = m.item_id JOIN customer c ON c.id = i.customer_id
    WHERE m.account = ${clearing} AND ${waits} AND (m.means = 'debit' OR NOT ${takenBack(clearing)}) ${own}
    UNION ALL
    SELECT 'means', m.id, i.number, NULL, m.amount, m.base_amount, i.date, i.currency, CONCAT(m.reference,
      ' ', i.payer), NULL, NULL, i.payer, m.met, m.account, 0
    FROM receipt_means m JOIN sundry_receipt i ON i.id = -m.item_id
    WHERE m.account = ${clearing} AND ${waits} AND i.void_entry_id IS NULL ${own}
    UNION ALL
    SELECT 'slip', i.id, i.number, NULL, i.total - i.cash_kept, (SELECT SUM(l.base_amount) FROM journal_line l
      WHERE l.entry_id = i.entry_id AND l.account = ${clearing}), i.date, i.currency, '', NULL, NULL, NULL,
      ${settledBy('slip', 'i.id')}, ${clearing}, 0
    FROM slip i WHERE i.void_entry_id IS NULL AND ${pick('slip', 'i.id')} ${own}
    UNION ALL
    SELECT 'refund', i.id, i.number, i.customer_id, -i.amount, -i.base_amount, i.posting_date, i.currency,
      CONCAT(f.iban, ' ', COALESCE((SELECT MAX(q.number) FROM refund_cheque q WHERE q.refund_item_id = i.id
      AND q.void_on IS NULL), '')), NULL, c.number, c.name, ${settledBy('refund', 'i.id')}, ${payingOut}, 0
    FROM refund f JOIN item i ON i.id = f.item_id JOIN customer c ON c.id = i.customer_id
    WHERE f.method <> 'cash' AND ${pick('refund', 'i.id')}
      AND NOT ${takenBack(payingOut)} ${own}
    UNION ALL
    SELECT 'reversal', i.id, i.number, i.customer_id, l.amount, l.base_amount, i.posting_date, i.currency,
      COALESCE((SELECT GROUP_CONCAT(m.reference SEPARATOR ' ') FROM receipt_means m
      WHERE m.item_id = i.reverses_item_id), ''), i.reverses_item_id, c.number, c.name,
      ${settledBy('reversal', 'i.id')}, l.account, 0
    FROM (
      SELECT id, account, SUM(amount) AS amount, SUM(base_amount) AS base_amount FROM (
        SELECT i.id, l.account, l.amount, l.base_amount FROM item i
          JOIN journal_line l ON l.item_id = i.id AND l.account IN (${clearing}, ${payingOut})
            AND l.allocation_id IS NULL
          WHERE i.kind = 'reversal'
        -- What the bank never had does not come back from it.
        UNION ALL SELECT i.id, m.account, m.amount, m.base_amount FROM item i
          JOIN receipt_means m ON m.item_id = i.reverses_item_id AND m.account = ${clearing} AND m.met = 0
          WHERE i.kind = 'reversal' AND ${through(clearing, 'i.id')}
        UNION ALL SELECT i.id, ${payingOut}, -i.amount, -i.base_amount FROM item i
          JOIN refund f ON f.item_id = i.reverses_item_id AND f.method <> 'cash'
          WHERE i.kind = 'reversal' AND ${through(payingOut, 'i.id')}
            AND NOT ${settledBy('refund', 'f.item_id')}) back GROUP BY id, account) l
      JOIN item i ON i.id = l.id JOIN customer c ON c.id = i.customer_id
    WHERE l.amount <> 0 AND ${pick('reversal', 'i.id')} ${own}
    ORDER BY date, id`,
    {
      currency,
      means: ids('means'),
      slip: ids('slip'),
      reversal: ids('reversal'),
      refund: ids('refund'),
    },
  )
  return rows.map(({ reference, ...r }) => ({
    ...r,
    amount: Number(r.amount),
    baseAmount: Number(r.baseAmount),
    settled: Boolean(r.settled),
    returned: Boolean(r.returned),
    references: reference.split(/\s+/).filter(Boolean),
  }))
}

const matcherForRow = z.object({
  length: cell.whole,
})

const matcherForItemRow = z.object({
  id: cell.whole,
  key: cell.text,
  customerId: cell.whole,
  number: cell.text,
  amount: cell.whole,
  documentDate: cell.text,
  open: cell.whole.nullable(),
})

const matcherForAllocationRow = z.object({
  id: cell.whole,
  on: cell.text,
  settledBy: cell.text,
  kind: cell.text,
})

const matcherForRow2 = z.object({
  number: cell.text,
  id: cell.whole,
  amount: cell.whole,
  customerId: cell.whole,
  kind: cell.text,
  side: z.enum(['debit', 'credit']),
  documentDate: cell.text,
  dueDate: cell.text,
  open: cell.whole,
  order: cell.text,
  d1: cell.text.nullable(),
  a1: cell.whole.nullable(),
  d2: cell.text.nullable(),
  a2: cell.whole.nullable(),
})

const matcherForPayerHabitRow = z.object({
  customerId: cell.whole,
  kind: z.enum(['other', 'oldest', 'short']),
  amount: cell.whole,
  times: cell.whole,
})

/** A matcher for lines of one currency. */
export async function matcherFor(
  database: Handle,
  settings: Settings,
  currency: string,
  lines: readonly MatchLine[],
): Promise<{
  matcher: Matcher
  customers: ReadonlyMap<number, MatchCustomer>
  items: Map<number, MatchItem>
  covered: CoveredRow[]
}> {
  const [directory, learnt, rules, covered, rate, files] = await Promise.all([
    customerDirectory(database, settings.versions.customers),
    database.find('payer_learnt', {}, { columns: { iban: 'iban', name: 'name', customerId: 'customer_id' } }),
    database.find(
      'ledger_rule',
      {},
      { columns: { iban: 'iban', words: 'words', account: 'account', moneyIn: 'money_in' } },
    ),
    loadCovered(database, currency),
    rateOn(database, settings.base, currency, settings.today),
    paymentFiles(database, currency),
  ])
  let keys = [
    ...new Set(
      lines.flatMap(l => [...possibleNumbers(textOf(l)), ...l.remittance.map(r => referenceKey(r.number))]),
    ),
  ]
  if (lines.length > FEW) {
    // Most of what could be a number has a length that none of ours has.
    const lengths = new Set(
      (await database.rows(matcherForRow, 'SELECT DISTINCT CHAR_LENGTH(number_key) AS length FROM item')).map(
        r => Number(r.length),
      ),
    )
    keys = keys.filter(k => lengths.has(k.length))
  }
  const owners = new Set<number>()
  const closed = new Map<string, Closed>()
  const chunks = (list: readonly (string | number)[]) =>
    Array.from({ length: Math.ceil(list.length / CHUNK) }, (_, i) => list.slice(i * CHUNK, (i + 1) * CHUNK))
  const named = (
    await Promise.all(
      chunks(keys).map(some =>
        database.rows(
          matcherForItemRow,
          `
    SELECT i.id, i.number_key AS \`key\`, i.customer_id AS customerId, i.number, i.amount,
      i.document_date AS documentDate, o.open FROM item i LEFT JOIN open_item o ON o.item_id = i.id
    WHERE i.number_key IN (:some) AND i.kind IN (${MATCHABLE}) AND i.currency = :currency`,
          { some, currency },
        ),
      ),
    )
  ).flat()
  for (const n of named) owners.add(n.customerId)
  const past = new Map(named.filter(n => n.open === null).map(n => [n.id, n]))
  for (const some of chunks([...past.keys()])) {
    const rows = await database.rows(
      matcherForAllocationRow,
      `
      SELECT a.debit_item_id AS id, a.effective AS \`on\`, k.number AS settledBy, k.kind FROM allocation a
        JOIN item k ON k.id = a.credit_item_id WHERE a.debit_item_id IN (:some) ORDER BY a.id`,
      { some },
    )
    for (const r of rows) {
      const { key, customerId, number, amount, documentDate } = past.get(r.id)!
      const before = closed.get(key)
      closed.set(key, {
        customerId,
        number,
        amount: Number(amount),
        documentDate,
        on: before && before.on > r.on ? before.on : r.on,
        by: r.settledBy,
        writtenOff: r.kind === 'write-off',
      })
    }
  }
  const open = (where: string) => `SELECT item_id, open FROM open_item WHERE currency = :currency ${where}`
  let some = open('')
  if (lines.length <= FEW) {
    const ibans = new Set(lines.map(l => plain(l.iban)).filter(Boolean))
    const words = lines.flatMap(l => [l.name, l.ultimate, textOf(l)]).filter(Boolean)
    for (const iban of ibans) for (const id of directory.withIban(iban)) owners.add(id)
    for (const l of learnt)
      if (ibans.has(plain(l.iban)) || lines.some(x => x.name === l.name)) owners.add(l.customerId)
    const tokens = lines.flatMap(l => tokensIn(textOf(l)))
    for (const token of tokens) for (const id of directory.withNumber(token)) owners.add(id)
    for (const id of await ownersOfOrders(database, currency, tokens)) owners.add(id)
    for (const w of words) for (const n of directory.names.find(w, 8)) owners.add(n.customerId)
    for (const id of [...owners]) for (const member of directory.groupOf(id)) owners.add(member)
    // Each half has an index of its own; together in one condition neither would be used.
    some = `${open('AND customer_id IN (:owners)')} UNION ${open('AND open IN (:amounts)')}`
  }
  const rows = await database.rows(
    matcherForRow2,
    `
    SELECT i.id, i.customer_id AS customerId, i.number, i.kind, i.side, i.amount, ABS(s.open) AS open,
      i.document_date AS documentDate, i.due_date AS dueDate, i.order_ref AS \`order\`,
      i.discount_date AS d1, i.discount_amount AS a1,
      i.discount2_date AS d2, i.discount2_amount AS a2
    FROM (${some}) s JOIN item i ON i.id = s.item_id`,
    { currency, owners: [0, ...owners], amounts: [0, ...lines.map(l => l.amount)] },
  )
  const items = rows.map(({ d1, a1, d2, a2, ...r }): MatchItem => ({
    ...r,
    open: Number(r.open),
    discounts: [
      { date: d1, amount: a1 },
      { date: d2, amount: a2 },
    ].filter((d): d is { date: string; amount: number } => d.date !== null && d.amount !== null),
  }))
  const returnable = await returnableOf(database, settings, currency, lines)
  const habits = await database.rows(
    matcherForPayerHabitRow,
    `SELECT customer_id AS customerId, kind, amount, times FROM payer_habit
      ${lines.length <= FEW ? 'WHERE customer_id IN (:owners)' : ''}`,
    { owners: [0, ...owners] },
  )
  const settled = await settledOf(database, settings, currency, lines)
  const { tolerance } = settings.receiptPolicy
  const matcher = new Matcher({
    directory,
    items,
    covered: [...covered, ...lumpsOf(files, covered)],
    learnt,
    habits,
    rules: rules.map(r => ({ ...r, moneyIn: Boolean(r.moneyIn) })),
    returnable,
    closed: key => closed.get(key),
    settled: (id, amount) => settled.get(`${id} ${amount}`) ?? [],
    graceDays: settings.receiptPolicy.discountGraceDays,
    tolerance: rate === undefined ? 0 : mostWithin(tolerance, currency, settings.base, rate),
  })
  return {
    matcher,
    customers: directory.byId,
    items: new Map(items.map(i => [i.id, i])),
    covered,
  }
}

/** So long after its date a document is not paid a second time by mistake: common practice, our choice. */
const MISTAKE_DAYS = 240

/** Settled debits of the amounts of the lines, by customer and amount, with what settled them. */
async function settledOf(
  database: Handle,
  settings: Settings,
  currency: string,
  lines: readonly MatchLine[],
): Promise<Map<string, Closed[]>> {
  const amounts = [...new Set(lines.map(l => l.amount).filter(a => a > 0))]
  const found = new Map<string, Closed[]>()
  for (let at = 0; at < amounts.length; at += CHUNK) {
    const rows = await database.select<Closed>(
      `SELECT i.customer_id AS customerId, i.number, i.amount, i.document_date AS documentDate,
        MAX(a.effective) AS \`on\`, MAX(k.number) AS \`by\`,
        SUM(IF(k.kind = 'write-off', a.amount, 0)) > 0 AS writtenOff
        FROM item i JOIN allocation a ON a.debit_item_id = i.id JOIN item k ON k.id = a.credit_item_id
        LEFT JOIN open_item o ON o.item_id = i.id
        WHERE i.amount IN (:amounts) AND i.currency = :currency AND i.kind IN (${MATCHABLE})
        AND i.side = 'debit' AND i.document_date >= :since AND o.item_id IS NULL
        GROUP BY i.id ORDER BY i.document_date DESC`,
      {
        amounts: amounts.slice(at, at + CHUNK),
        currency,
        since: addDays(settings.today, -MISTAKE_DAYS),
      },
    )
    for (const r of rows) {
      const key = `${r.customerId} ${Number(r.amount)}`
      found.set(key, [
        ...(found.get(key) ?? []),
        { ...r, amount: Number(r.amount), writtenOff: Boolean(Number(r.writtenOff)) },
      ])
    }
  }
  return found
}

const ownersOfOrdersRow = z.object({
  id: cell.whole,
})

/** Customers with an open document of an order that a text names. */
async function ownersOfOrders(
  database: Handle,
  currency: string,
  tokens: readonly string[],
): Promise<number[]> {
  const rows = await database.rows(
    ownersOfOrdersRow,
    `SELECT DISTINCT i.customer_id AS id FROM item i JOIN open_item o ON o.item_id = i.id
      WHERE i.order_key IN (:tokens) AND i.currency = :currency`,
    { tokens: ['-', ...new Set(tokens)], currency },
  )
  return rows.map(r => r.id)
}

/** What is posted and awaited from the bank, for the screen and for scripts. */
export async function listCovered(database: Handle, q: { currency?: string; search?: string }) {
  const rows = (await loadCovered(database, q.currency ?? null)).filter(
    r =>
      !r.returned &&
      (!q.search ||
        `${r.label} ${r.customerName ?? ''} ${r.references.join(' ')}`
          .toLowerCase()
          .includes(q.search.toLowerCase())),
  )
  return {
    items: rows.map(r => ({
      kind: r.kind,
      id: r.id,
      label: r.label,
      date: r.date,
      currency: r.currency,
      amount: r.amount,
      customer: r.customerName ? { number: r.customerNumber ?? '', name: r.customerName } : null,
      receiptId: r.receiptId,
    })),
    totals: [...new Set(rows.map(r => r.currency))].sort().map(currency => {
      const own = rows.filter(r => r.currency === currency)
      return { currency, amount: own.reduce((a, r) => a + r.amount, 0), count: own.length }
    }),
  }
}

import { z } from 'zod'
import { cell } from '../../db/rows'
import { isIsoDate } from '../../../core/calendar'
import { sameNumber } from '../../../core/documents'
import type { Refusal } from '../../../core/ledger'
import { isCurrency, parseAmount } from '../../../core/money'
import { ORDER_COLUMNS, type order } from '../../../contract/exposure'
import type { ImportResult } from '../../../contract/documents'
import type { Handle } from '../../db/handle'
import { audit } from '../../db/settings'
import type { By } from '../../ledger/command'
import { requireAbility } from '../../ledger/rights'
import { ProblemError } from '../common/problems'
import { nothingImported, readTable, sampleOf, type ImportOptions, type Progress } from '../documents/table'

type Order = z.output<typeof order>
const STATES = ['open', 'closed', 'cancelled']
const CHUNK = 2000
const REQUIRED = ['number', 'customer', 'date', 'amount']

interface Fault {
  row: number
  column: string
  message: string
}

interface Customer {
  id: number
  currency: string
  closedOn: string | null
}

const customersOfRow = z.object({
  id: cell.whole,
  currency: cell.text,
  closedOn: cell.text.nullable(),
  number: cell.text,
})

async function customersOf(db: Handle, numbers: readonly string[]): Promise<Map<string, Customer>> {
  const found = new Map<string, Customer>()
  const wanted = [...new Set(numbers)]
  for (let at = 0; at < wanted.length; at += CHUNK) {
    const rows = await db.rows(
      customersOfRow,
      `SELECT n.number, c.id, c.currency, c.closed_on AS closedOn FROM customer n
        JOIN customer c ON c.id = COALESCE(n.merged_into, n.id) WHERE n.number IN (:numbers)`,
      { numbers: wanted.slice(at, at + CHUNK) },
    )
    for (const { number, ...c } of rows) found.set(sameNumber(number), c)
  }
  return found
}

/** Orders that are there already, with whose they are; held until the transaction ends. */
async function knownOrders(tx: Handle, orders: readonly Order[]): Promise<Map<string, number>> {
  const there = new Map<string, number>()
  for (let at = 0; at < orders.length; at += CHUNK) {
    const rows = await tx.find(
      'sales_order',
      { number: orders.slice(at, at + CHUNK).map(o => o.number) },
      { columns: { number: 'number', customerId: 'customer_id' }, lock: true },
    )
    for (const r of rows) there.set(sameNumber(r.number), r.customerId)
  }
  return there
}

/** What is wrong with orders among each other and with what is there; nothing of them is kept then. */
function faultsOf(
  orders: readonly Order[],
  customers: ReadonlyMap<string, Customer>,
  there: ReadonlyMap<string, number>,
): Fault[] {
  const seen = new Set<string>()
  return orders.flatMap((o, row): Fault[] => {
    const key = sameNumber(o.number)
    const faults: Fault[] = []
    if (seen.has(key)) faults.push({ row, column: 'number', message: `order ${o.number} stands here twice` })
    seen.add(key)
    const customer = customers.get(sameNumber(o.customer))
    const before = there.get(key)
    if (!customer)
      faults.push({
        row,
        column: 'customer',
        message: `there is no customer ${o.customer}: import the customer first`,
      })
    else if (before !== undefined && before !== customer.id)
      faults.push({
        row,
        column: 'customer',
        message: `order ${o.number} belongs to another customer already`,
      })
    else if (customer.closedOn !== null && before === undefined)
      faults.push({
        row,
        column: 'customer',
        message: `the account of ${o.customer} is closed since ${customer.closedOn}`,
      })
    return faults
  })
}

async function write(
  tx: Handle,
  by: By,
  orders: readonly Order[],
): Promise<{ faults: Fault[]; added: number; changed: number }> {
  const customers = await customersOf(
    tx,
    orders.map(o => o.customer),
  )
  const there = await knownOrders(tx, orders)
  const faults = faultsOf(orders, customers, there)
  if (faults.length) return { faults, added: 0, changed: 0 }
  for (let at = 0; at < orders.length; at += CHUNK) {
    const chunk = orders.slice(at, at + CHUNK)
    await tx.run(
      `INSERT INTO sales_order (number, customer_id, date, currency, amount, delivered, invoiced, state, person_id)
        VALUES ${chunk.map(() => '(?, ?, ?, ?, ?, ?, ?, ?, ?)').join(', ')}
        ON DUPLICATE KEY UPDATE date = VALUES(date), currency = VALUES(currency), amount = VALUES(amount),
          delivered = VALUES(delivered), invoiced = VALUES(invoiced), state = VALUES(state),
          person_id = VALUES(person_id), at = CURRENT_TIMESTAMP(3)`,
      chunk.flatMap(o => [
        o.number,
        customers.get(sameNumber(o.customer))!.id,
        o.date,
        o.currency,
        o.amount,
        o.delivered,
        o.invoiced,
        o.state,
        by.id,
      ]),
    )
  }
  const changed = orders.filter(o => there.has(sameNumber(o.number))).length
  const told = { added: orders.length - changed, changed }
  await audit(tx, by.id, 'orders', 'orders', null, JSON.stringify(told))
  return { faults, ...told }
}

/** Orders as the order desk has them now; all or none. */
export async function takeOrders(
  database: Handle,
  by: By,
  orders: readonly Order[],
): Promise<{ added: number; changed: number }> {
  const { faults, added, changed } = await database.transaction(tx => write(tx, by, orders))
  if (faults.length)
    throw new ProblemError(
      422,
      'Nothing was taken',
      `${faults[0]!.message}: mend it and send all again`,
      faults.map(f => ({ path: `orders.${f.row}.${f.column}`, message: f.message })),
    )
  return { added, changed }
}

/** One row of a file as an order, its faults told. */
function orderIn(
  cells: Readonly<Record<string, string | undefined>>,
  customer: Customer | undefined,
  say: (column: string, message: string) => void,
): Order {
  const currency = (cells.currency || customer?.currency || '').toUpperCase()
  if (currency && !isCurrency(currency))
    say('currency', `"${cells.currency}" is not a currency: use the three letters of ISO 4217, such as EUR`)
  const money = (column: string) => {
    if (!cells[column] && column !== 'amount') return 0
    try {
      const amount = parseAmount(cells[column] ?? '', isCurrency(currency) ? currency : 'EUR')
      if (amount < 0) say(column, 'cannot be less than zero')
      return amount
    } catch (error) {
      say(column, (error as Error).message)
      return 0
    }
  }
  const date = cells.date ?? ''
  if (!isIsoDate(date))
    say('date', date ? `"${date}" is not a date: write YYYY-MM-DD` : 'the date is missing')
  const state = (cells.state || 'open').toLowerCase()
  if (!STATES.includes(state)) say('state', `"${cells.state}" is not a state: use ${STATES.join(', ')}`)
  const number = cells.number ?? ''
  if (!number || number.length > 48)
    say('number', number ? 'longer than 48 characters' : 'the number is missing')
  return {
    number,
    customer: cells.customer ?? '',
    date,
    currency,
    amount: money('amount'),
    delivered: money('delivered'),
    invoiced: money('invoiced'),
    state: state as Order['state'],
  }
}

/** Orders from a table: new ones are added, known ones changed; all or nothing. */
export async function importOrders(
  database: Handle,
  by: By,
  text: string,
  options: ImportOptions,
  progress: Progress,
): Promise<ImportResult> {
  requireAbility(by, 'import')
  await progress('Reading', 0, 0)
  const { table, unknownColumns } = await readTable(text, ORDER_COLUMNS, REQUIRED)
  const faults: Refusal[] = []
  const say = (line: number, column: string, message: string) =>
    faults.push({ rule: 'row', path: `line ${line}, ${column}`, line, column, message, satisfy: '' })
  const done = await database.transaction(async tx => {
    const customers = await customersOf(
      tx,
      table.rows.map(r => r.cells.customer ?? ''),
    )
    const orders = table.rows.map(({ line, cells }) =>
      orderIn(cells, customers.get(sameNumber(cells.customer ?? '')), (column, message) =>
        say(line, column, message),
      ),
    )
    await progress('Checking', orders.length, orders.length)
    const wrong = faults.length || options.dryRun ? null : await write(tx, by, orders)
    const there = options.dryRun ? await knownOrders(tx, orders) : null
    const checked = wrong?.faults ?? faultsOf(orders, customers, there ?? new Map())
    for (const f of checked) say(table.rows[f.row]!.line, f.column, f.message)
    if (faults.length) throw nothingImported(faults.sort((a, b) => (a.line ?? 0) - (b.line ?? 0)))
    const changed = wrong ? wrong.changed : there!.size
    return { orders, changed }
  })
  const totals = new Map<string, number>()
  for (const o of done.orders) totals.set(o.currency, (totals.get(o.currency) ?? 0) + o.amount)
  return {
    dryRun: options.dryRun,
    rows: table.rows.length,
    imported: done.orders.length - done.changed,
    updated: done.changed,
    waiting: 0,
    skipped: 0,
    unknownColumns,
    totals: [...totals].map(([currency, debit]) => ({ currency, debit, credit: 0 })),
    sample: sampleOf(table.rows),
    changes: [],
  }
}

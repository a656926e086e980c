import { cell } from '../../db/rows'
import { column } from '../../db/where'
import { z } from 'zod'
import { amount, id } from '../../../contract/common'
import { commissionOf, decidePassOn, decideShort, type Facility } from '../../../core/factoring'
import { decided } from '../../../core/ledger'
import { reverse } from '../../../core/receipts'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, perform, type By, type Idempotency } from '../../ledger/command'
import { loadLines, loadState } from '../../ledger/load'
import { findCustomer } from '../accounts/customers'
import { prove } from '../books/proof'
import { notFound } from '../common/problems'
import type { Actor } from '../people/scope'
import { facilityByCode, facilityOf } from './facilities'

const ownerOfRow = z.object({
  id: cell.whole,
  number: cell.text,
})

async function ownerOf(db: Handle, itemId: number): Promise<{ id: number; number: string }> {
  const [row] = await db.rows(
    ownerOfRow,
    'SELECT c.id, c.number FROM item i JOIN customer c ON c.id = i.customer_id WHERE i.id = :itemId',
    { itemId },
  )
  if (!row) throw notFound(`credit ${itemId}`)
  return row
}

const loadFor = async (
  db: Handle,
  input: { facility: string; creditItemId: number },
  settings: Settings,
  itemIds: number[],
) => {
  const owner = await ownerOf(db, input.creditItemId)
  return {
    facility: await facilityByCode(db, input.facility),
    customer: await findCustomer(db, owner.number, {}),
    ledger: await loadState(
      db,
      { customerIds: [owner.id], itemIds: [input.creditItemId, ...itemIds] },
      settings,
    ),
  }
}

const shortInput = z.object({ facility: z.string(), creditItemId: id, itemId: id })

/** The factor paid an invoice less its commission: the three close together. */
export const shortCommand = command({
  name: 'factoring.short',
  ability: 'factoring.run',
  input: shortInput,
  locks: async (db, input) => ({
    facilities: [(await facilityByCode(db, input.facility)).id],
    customers: [(await ownerOf(db, input.creditItemId)).id],
  }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) =>
    loadFor(db, input, settings, [input.itemId]),
  decide: (state, input) => decideShort(state, { ...input, date: state.ledger.today }),
  after: async ({ db, input, state, written }) => {
    const { items, allocations } = written[0]!
    // Where it was on a schedule, it is paid: while the link of the commission stands.
    await db.update(
      'factor_item',
      {
        state: 'collected',
        collected: column('amount'),
        collected_on: state.ledger.today,
        closing_link_id: allocations[1]!,
      },
      { item_id: input.itemId, live: 1 },
    )
    return { numbers: items.map(i => i.number) }
  },
  about: input => `credit ${input.creditItemId}`,
})

const passOnInput = z.object({ facility: z.string(), creditItemId: id, amount })

/** Money of a debtor that is the factor's: off the account, and owed to the factor. */
export const passOnCommand = command({
  name: 'factoring.passOn',
  ability: 'factoring.run',
  input: passOnInput,
  locks: async (db, input) => ({
    facilities: [(await facilityByCode(db, input.facility)).id],
    customers: [(await ownerOf(db, input.creditItemId)).id],
  }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) =>
    loadFor(db, input, settings, []),
  decide: (state, input) => decidePassOn(state, { ...input, date: state.ledger.today }),
  after: async ({ db, state, written }) => {
    const { items } = written[0]!
    await db.insert('factor_passed', [{ item_id: items[0]!.id, facility_id: state.facility.id }])
    return { numbers: items.map(i => i.number) }
  },
  about: input => `credit ${input.creditItemId}`,
})

const passedRowRow = z.object({
  customerId: cell.whole,
  customer: cell.text,
})

async function passedRow(db: Handle, itemId: number): Promise<{ customerId: number; customer: string }> {
  const [row] = await db.rows(
    passedRowRow,
    `SELECT i.customer_id AS customerId, c.number AS customer FROM factor_passed t JOIN item i ON i.id = t.item_id
      JOIN customer c ON c.id = i.customer_id WHERE t.item_id = :itemId`,
    { itemId },
  )
  if (!row) throw notFound(`money passed on ${itemId}`)
  return row
}

/** Money that was not the factor's after all: it is on the account again, and not owed. */
export const undoPassOnCommand = command({
  name: 'factoring.undoPassOn',
  ability: 'factoring.run',
  input: z.object({ id, reason: z.string().min(1).max(200) }),
  locks: async (db, input) => ({ customers: [(await passedRow(db, input.id)).customerId] }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const row = await passedRow(db, input.id)
    return {
      customer: await findCustomer(db, row.customer, {}),
      lines: await loadLines(db, input.id),
      ledger: await loadState(
        db,
        { customerIds: [row.customerId], itemIds: [input.id], linksOf: [input.id] },
        settings,
      ),
    }
  },
  decide: ({ ledger, lines }, { id: itemId, reason }) =>
    decided(reverse(ledger, { itemId, date: ledger.today, reason, lines })),
  after: async ({ input }) => ({ id: input.id }),
  about: input => `money passed on ${input.id}`,
})

export async function undoPassOn(
  database: Handle,
  actor: Actor,
  itemId: number,
  reason: string,
  idempotency?: Idempotency,
): Promise<void> {
  await perform(database, actor, undoPassOnCommand, { id: itemId, reason }, idempotency)
}

const passedRowCells = z.object({
  id: cell.whole,
  number: cell.text,
  date: cell.text,
  customerNumber: cell.text,
  customerName: cell.text,
  currency: cell.text,
  amount: cell.whole,
  factor: cell.text,
})
/** Money that was passed on, the newest first, while it stands. */
async function listPassed(database: Handle) {
  const rows = await database.rows(
    passedRowCells,
    `SELECT i.id, i.number, i.posting_date AS date, c.number AS customerNumber, c.name AS customerName,
      i.currency, i.amount, f.name AS factor FROM factor_passed t JOIN item i ON i.id = t.item_id
      JOIN customer c ON c.id = i.customer_id JOIN factor_facility f ON f.id = t.facility_id
      WHERE NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = i.id) ORDER BY i.id DESC LIMIT 50`,
  )
  return rows.map(({ customerNumber, customerName, ...r }) => ({
    ...r,
    customer: { number: customerNumber, name: customerName },
  }))
}

export const closeShort = (
  database: Handle,
  actor: Actor,
  body: z.input<typeof shortInput>,
  idempotency?: Idempotency,
): Promise<{ numbers: string[] }> => perform(database, actor, shortCommand, body, idempotency)
export const proveShort = (database: Handle, actor: Actor, body: z.input<typeof shortInput>) =>
  prove(database, actor, shortCommand, body)
export const passOn = (
  database: Handle,
  actor: Actor,
  body: z.input<typeof passOnInput>,
  idempotency?: Idempotency,
): Promise<{ numbers: string[] }> => perform(database, actor, passOnCommand, body, idempotency)
export const provePassOn = (database: Handle, actor: Actor, body: z.input<typeof passOnInput>) =>
  prove(database, actor, passOnCommand, body)

const creditRow = z.object({
  id: cell.whole,
  number: cell.text,
  date: cell.text,
  open: cell.sum,
  customerId: cell.whole,
  customerNumber: cell.text,
  customerName: cell.text,
  currency: cell.text,
  facilityId: cell.whole,
  code: cell.text,
  name: cell.text,
  terms: cell.text,
})
const invoiceRow = z.object({
  itemId: cell.whole,
  number: cell.text,
  customerId: cell.whole,
  currency: cell.text,
  facilityId: cell.whole,
  open: cell.sum,
  amount: cell.whole,
  sold: cell.sum,
})
type InvoiceRow = z.output<typeof invoiceRow>

/** The invoice that a payment pays, less the commission of the terms. */
function shortOf(facility: Facility, credit: number, invoices: readonly InvoiceRow[]) {
  for (const i of invoices) {
    const open = int(i.open)
    const { gross, net, tax } = commissionOf(facility, i.amount)
    if (open > 0 && Math.abs(open - credit - gross) <= 1)
      return { itemId: i.itemId, number: i.number, open, net, tax }
  }
  return null
}

/**
 * Money that came to accounts since their invoices were offered to a factor: its own less commission, or paid
 * to us by mistake.
 */
export async function listToClose(database: Handle) {
  const credits = await database.rows(
    creditRow,
    `SELECT DISTINCT i.id, i.number, i.document_date AS date, -o.open AS open, c.id AS customerId,
      c.number AS customerNumber, c.name AS customerName, i.currency, f.id AS facilityId, f.code, f.name, f.terms
      FROM open_item o JOIN item i ON i.id = o.item_id JOIN customer c ON c.id = i.customer_id
      JOIN factor_item t ON t.customer_id = c.id AND t.live = 1 AND t.state = 'accepted'
      JOIN factor_schedule s ON s.id = t.schedule_id AND s.currency = i.currency
        AND i.document_date >= s.on_date
      JOIN factor_facility f ON f.id = s.facility_id
      WHERE o.open < 0 AND i.kind IN ('receipt', 'advance') ORDER BY i.document_date, i.id LIMIT 500`,
  )
  const passed = await listPassed(database)
  if (!credits.length) return { items: [], passed }
  const invoices = await database.rows(
    invoiceRow,
    `SELECT i.id AS itemId, i.number, i.customer_id AS customerId, i.currency, s.facility_id AS facilityId,
      COALESCE(o.open, 0) AS open, i.amount, IF(t.sale_item_id IS NULL, 0, t.amount - t.collected) AS sold
      FROM factor_item t JOIN factor_schedule s ON s.id = t.schedule_id JOIN item i ON i.id = t.item_id
      LEFT JOIN open_item o ON o.item_id = i.id
      WHERE t.live = 1 AND t.state = 'accepted' AND t.customer_id IN (:customers) ORDER BY i.due_date, i.id`,
    { customers: [...new Set(credits.map(c => c.customerId))] },
  )
  return {
    passed,
    items: credits.map(c => {
      const open = int(c.open)
      const own = invoices.filter(
        i => i.customerId === c.customerId && i.currency === c.currency && i.facilityId === c.facilityId,
      )
      const sold = own.reduce((sum, i) => sum + int(i.sold), 0)
      return {
        credit: { id: c.id, number: c.number, date: c.date, open },
        customer: { number: c.customerNumber, name: c.customerName },
        currency: c.currency,
        facility: { code: c.code, name: c.name },
        short: shortOf(facilityOf({ ...c, id: c.facilityId }), open, own),
        passOn: Math.min(open, sold),
      }
    }),
  }
}

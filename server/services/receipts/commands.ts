import { z } from 'zod'
import { kindList } from '../../../core/ledger'
import { NO_REASON } from '../../../core/payments'
import {
  decideAllocate,
  decideReceipt,
  decideReverse,
  decideUnallocate,
  type AccountState,
  type ReverseState,
} from '../../../core/receipts'
import { id } from '../../../contract/common'
import {
  allocateBody,
  receiptBody,
  reverseBody,
  unallocateBody,
  type Posted,
  type ReceiptBody,
} from '../../../contract/receipts'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import type { Settings } from '../../db/settings'
import { command } from '../../ledger/command'
import { loadLines, loadState, type Wanted } from '../../ledger/load'
import type { Need } from '../../ledger/rights'
import type { Written } from '../../ledger/write'
import { notFound } from '../common/problems'
import { noteReturnedReceipts } from '../collections/returns'
import { openDeductions } from '../disputes/deductions'
import { recoveryWarnings } from '../impairment/lists'
import { findCustomer, idOfCustomer, type Customer } from '../accounts/customers'
import { type Actor } from '../people/scope'

const MONEY = kindList(k => k.money)

/** A late discount is granted on authority only. */
export const lateDiscountNeeds = (input: { lateDiscount?: boolean }): Need[] =>
  input.lateDiscount ? [{ ability: 'discount.authorise', path: 'lateDiscount' }] : []

export interface OfCustomer {
  ledger: AccountState['ledger']
  customer: Customer
}

/** One account with the part of its ledger that a decision needs. */
export async function accountState(
  db: Handle,
  settings: Settings,
  number: string,
  wanted: (customer: Customer) => Omit<Wanted, 'customerIds'>,
): Promise<OfCustomer> {
  const customer = await findCustomer(db, number, {})
  const ledger = await loadState(db, { customerIds: [customer.id], ...wanted(customer) }, settings)
  return { customer, ledger }
}

const postedOf = ([first]: readonly Written[]): Posted => ({
  entry: first!.entryNumber,
  receipt: first!.items[0] ?? null,
  allocations: first!.allocations,
})

/** A receipt and what it pays. */
export const receiveCommand = command({
  name: 'receipts.post',
  ability: 'receipts.post',
  needs: lateDiscountNeeds,
  input: receiptBody,
  locks: async (db, input) => ({ customers: [await idOfCustomer(db, input.customer)] }),
  load: async (db, input, { settings }: { settings: Settings; actor: Actor }) => {
    return accountState(db, settings, input.customer, customer => ({
      itemIds: [...input.allocations.map(a => a.itemId), ...(input.rest?.itemId ? [input.rest.itemId] : [])],
      rates: [{ currency: input.currency ?? customer.currency, date: input.date }],
    }))
  },
  decide: decideReceipt,
  after: async ({ db, written, facts, actor }) => {
    const receipt = written[0]!.items[0]!
    const claims = facts.map(d => ({ ...d, receiptItemId: receipt.id }))
    await openDeductions(db, actor.id, claims)
    return postedOf(written)
  },
  warnings: receiptWarnings,
  about: input => input.customer,
})

const receiptWarningsRow = z.object({
  name: cell.text,
  to: cell.day,
})

async function receiptWarnings(db: Handle, body: ReceiptBody): Promise<string[]> {
  const currency = body.currency ?? (await findCustomer(db, body.customer, {})).currency
  return [
    ...(await bookedTwiceWarnings(db, body, currency)),
    ...(await recoveryWarnings(db, currency, [body])),
  ]
}

/** A transfer dated before the last statement should have been on it. */
async function bookedTwiceWarnings(db: Handle, body: ReceiptBody, currency: string): Promise<string[]> {
  if (!body.means.some(m => m.means === 'transfer' || m.means === 'card')) return []
  const [row] = await db.rows(
    receiptWarningsRow,
    `SELECT b.name, MAX(s.to_date) AS \`to\` FROM bank_statement s
      JOIN bank_account b ON b.id = s.bank_account_id WHERE b.currency = :currency
      GROUP BY b.id, b.name ORDER BY \`to\` DESC LIMIT 1`,
    { currency },
  )
  if (!row || body.date > row.to) return []
  return [
    `the statement of ${row.name} up to ${row.to} is in: look there first, the money may be booked twice`,
  ]
}

/** Credits of an account against its debits; no money moves. */
export const allocateCommand = command({
  name: 'receipts.allocate',
  ability: 'receipts.post',
  needs: lateDiscountNeeds,
  input: allocateBody,
  locks: async (db, input) => ({ customers: [await idOfCustomer(db, input.customer)] }),
  load: async (db, input, { settings }: { settings: Settings; actor: Actor }) => {
    return accountState(db, settings, input.customer, () => ({
      itemIds: input.pairs.flatMap(p => [p.debitItemId, p.creditItemId]),
    }))
  },
  decide: decideAllocate,
  after: async ({ written }) => postedOf(written),
  about: input => input.customer,
})

/** Links taken back: both sides are open again. */
export const unallocateCommand = command({
  name: 'receipts.unallocate',
  ability: 'receipts.correct',
  input: unallocateBody,
  locks: async (db, input) => ({ customers: [await idOfCustomer(db, input.customer)] }),
  load: async (db, input, { settings }: { settings: Settings; actor: Actor }) =>
    accountState(db, settings, input.customer, () => ({ allocationIds: input.allocationIds })),
  decide: decideUnallocate,
  after: async ({ written }) => postedOf(written),
  about: input => input.customer,
})

const accountOfReceiptRow = z.object({
  id: cell.whole,
  number: cell.text,
  currency: cell.text,
})

/** The account of a receipt or advance. */
export async function accountOfReceipt(
  db: Handle,
  itemId: number,
): Promise<{ id: number; number: string; currency: string }> {
  const [row] = await db.rows(
    accountOfReceiptRow,
    `SELECT c.id, c.number, i.currency FROM item i JOIN customer c ON c.id = i.customer_id
      WHERE i.id = :itemId AND i.kind IN (${MONEY})`,
    { itemId },
  )
  if (!row) throw notFound(`receipt ${itemId}`)
  return row
}

/** A receipt keyed in error, or returned: an opposite item closes it. */
export const reverseCommand = command({
  name: 'receipts.reverse',
  ability: 'receipts.correct',
  input: reverseBody.extend({ itemId: id }),
  locks: async (db, input) => ({ customers: [(await accountOfReceipt(db, input.itemId)).id] }),
  load: async (
    db,
    input,
    { settings }: { settings: Settings; actor: Actor },
  ): Promise<ReverseState & OfCustomer> => {
    const { number, currency } = await accountOfReceipt(db, input.itemId)
    const rates = input.fee ? [{ currency, date: input.date }] : []
    return {
      ...(await accountState(db, settings, number, () => ({ linksOf: [input.itemId], rates }))),
      ...(await whereMoneyWent(db, input.itemId)),
      lines: await loadLines(db, input.itemId),
    }
  },
  decide: decideReverse,
  after: async ({ db, input, written, actor }) => {
    // A direct debit that is undone here came back too.
    const told = { itemId: input.itemId, code: NO_REASON, on: input.date, text: input.reason }
    await noteReturnedReceipts(db, actor.id, [told])
    return postedOf(written)
  },
  about: input => String(input.itemId),
})

const whereMoneyWentRow = z.object({
  amount: cell.whole,
  baseAmount: cell.whole,
})

/** What of a receipt is on a slip that went to the bank, and which ledger accounts are bank accounts. */
async function whereMoneyWent(
  db: Handle,
  itemId: number,
): Promise<Pick<ReverseState, 'banked' | 'bankAccounts'>> {
  const banked = await db.rows(
    whereMoneyWentRow,
    `SELECT m.amount, m.base_amount AS baseAmount FROM receipt_means m WHERE m.item_id = :itemId
      AND EXISTS (SELECT 1 FROM slip_means sm JOIN slip p ON p.id = sm.slip_id
        WHERE sm.means_id = m.id AND p.void_entry_id IS NULL)`,
    { itemId },
  )
  const accounts = await db.find('bank_account', {}, { columns: ['account'] })
  return { banked, bankAccounts: new Set(accounts.map(a => a.account)) }
}

import { z } from 'zod'
import { cell } from '../../db/rows'
import { decideRefunds, type Payee, type RefundMethod } from '../../../core/refunds'
import { amountWords, convert } from '../../../core/money'
import { rateOf } from '../../../core/rates'
import { refundsBody, type RefundsBody } from '../../../contract/refunds'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, type By, type Change } from '../../ledger/command'
import type { Idempotency } from '../../ledger/idempotency'
import { loadState } from '../../ledger/load'
import { performOrKeep } from '../../ledger/waiting'
import { INHERITED, WITH_CLASS } from '../accounts/inherited'
import { findCustomer, findCustomers } from '../accounts/customers'
import { writtenOffNames } from '../impairment/lists'
import type { Actor } from '../people/scope'

const payeeRow = z.object({
  id: cell.whole,
  number: cell.text,
  name: cell.text,
  refunds: cell.text,
  iban: cell.text,
  bic: cell.text,
  bankHolder: cell.text,
  bankChangedBy: cell.text.nullable(),
  closedOn: cell.text.nullable(),
})
/** Where money of customers goes, and what may keep it from them. */
export interface PayeeDetails extends Payee {
  bic: string
  holder: string
}

const CHUNK = 5000

/** Customers by number, with all that a refund asks of them. */
export async function payeesOf(
  db: Handle,
  numbers: readonly string[],
  itemIds: readonly number[],
): Promise<Map<string, PayeeDetails>> {
  const found = new Map<string, PayeeDetails>()
  const byCard = await cardItems(db, itemIds)
  for (let at = 0; at < numbers.length; at += CHUNK) {
    const rows = await db.rows(
      payeeRow,
      `SELECT c.id, c.number, c.name, ${INHERITED.refunds} AS refunds, REPLACE(c.iban, ' ', '') AS iban, c.bic,
        c.bank_holder AS bankHolder, p.name AS bankChangedBy, c.closed_on AS closedOn
        FROM customer c ${WITH_CLASS} LEFT JOIN person p ON p.id = c.bank_changed_by
        WHERE c.number IN (:some) AND c.merged_into IS NULL`,
      { some: numbers.slice(at, at + CHUNK) },
    )
    for (const r of rows)
      found.set(r.number, {
        customerId: r.id,
        number: r.number,
        name: r.name,
        allowed: r.refunds !== 'no',
        iban: r.iban,
        bic: r.bic,
        holder: r.bankHolder || r.name,
        bankChangedBy: r.bankChangedBy,
        closed: r.closedOn !== null,
        cardItems: byCard,
      })
  }
  return found
}

async function cardItems(db: Handle, itemIds: readonly number[]): Promise<Set<number>> {
  const cards = new Set<number>()
  for (let at = 0; at < itemIds.length; at += CHUNK) {
    const rows = await db.find(
      'receipt_means',
      { item_id: itemIds.slice(at, at + CHUNK), means: 'card' },
      { columns: { id: 'item_id' }, distinct: true },
    )
    for (const r of rows) cards.add(r.id)
  }
  return cards
}

const itemIdsIn = (refunds: readonly { credits: readonly { itemId: number }[] }[]): number[] =>
  refunds.flatMap(r => r.credits.map(c => c.itemId))
const numbersIn = (refunds: readonly { customer: string }[]): string[] => [
  ...new Set(refunds.map(r => r.customer)),
]

/** How many of a large batch a signer is shown one by one. */
const TOLD = 30

/** Refunds of one or many customers, in one posting each. All are posted or none. */
export const refundCommand = command({
  name: 'refunds.post',
  ability: 'refunds.post',
  input: refundsBody,
  locks: async (db, input) => ({
    customers: [...(await findCustomers(db, numbersIn(input.refunds))).values()].map(c => c.id),
  }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const itemIds = itemIdsIn(input.refunds)
    const numbers = numbersIn(input.refunds)
    const payees = await payeesOf(db, numbers, itemIds)
    const date = input.date ?? settings.today
    const currencies = await currenciesOf(db, itemIds)
    return {
      ledger: await loadState(
        db,
        {
          customerIds: [...payees.values()].map(p => p.customerId),
          itemIds,
          rates: currencies.map(currency => ({ currency, date })),
        },
        settings,
      ),
      payees,
      date,
      customer: numbers.length === 1 && payees.size ? await findCustomer(db, numbers[0]!, {}) : null,
    }
  },
  decide: ({ ledger, payees, date }, input) =>
    decideRefunds({ ledger, payees }, { date, refunds: input.refunds }),
  stake: ({ ledger, payees, date }, { refunds }) => {
    const sized = refunds.map(r => {
      const currency = ledger.items.get(r.credits[0]!.itemId)?.currency ?? ledger.base
      const amount = r.credits.reduce((sum, c) => sum + c.amount, 0)
      const rate = rateOf(ledger, currency, date)
      return { currency, amount, base: rate === undefined ? 0 : convert(amount, currency, ledger.base, rate) }
    })
    const largest = sized.reduce((a, b) => (b.base > a.base ? b : a))
    return {
      kind: 'refund' as const,
      amount: largest.amount,
      currency: largest.currency,
      baseAmount: largest.base,
      customerId: refunds.length === 1 ? (payees.get(refunds[0]!.customer)?.customerId ?? null) : null,
    }
  },
  changes: ({ ledger, payees }, { refunds }): Change[] => {
    const told = refunds.slice(0, TOLD).map(r => {
      const items = r.credits.map(c => ledger.items.get(c.itemId))
      const payee = payees.get(r.customer)
      const total = r.credits.reduce((sum, c) => sum + c.amount, 0)
      return {
        field: payee?.name ?? r.customer,
        before: items.map(i => i?.number ?? 'gone').join(', '),
        after: `${amountWords(total, items[0]?.currency ?? ledger.base)} ${goesTo(r.method, payee)}`,
      }
    })
    const more = refunds.length - told.length
    return more > 0 ? [...told, { field: 'and', before: '', after: `${more} more refunds` }] : told
  },
  after: async ({ db, input, state, postings, written }) => {
    const rows = postings.map((posting, n) => {
      const { customer, method } = input.refunds[n]!
      const payee = state.payees.get(customer)!
      return {
        item_id: written[n]!.items[0]!.id,
        customer_id: posting.items[0]!.customerId,
        method,
        iban: method === 'transfer' ? payee.iban : '',
        bic: method === 'transfer' ? payee.bic : '',
        holder: payee.holder.slice(0, 120),
      }
    })
    await db.insert('refund', rows)
    return { numbers: written.map(w => w.items[0]!.number), ids: rows.map(r => r.item_id) }
  },
  warnings: async (db, input) => warningsOf(db, input.refunds),
  tell: ({ input }) =>
    input.refunds.length <= TOLD ? input : { refunds: input.refunds.length, reason: input.reason },
  about: ({ refunds }) => (refunds.length === 1 ? refunds[0]!.customer : `${refunds.length} refunds`),
})

function goesTo(method: RefundMethod, payee: PayeeDetails | undefined): string {
  if (method === 'transfer') return `to ${payee?.iban ?? ''} of ${payee?.holder ?? ''}`
  return { cheque: 'by cheque', card: 'back to the card', cash: 'in cash' }[method]
}

async function currenciesOf(db: Handle, itemIds: readonly number[]): Promise<string[]> {
  const found = new Set<string>()
  for (let at = 0; at < itemIds.length; at += CHUNK) {
    const rows = await db.find(
      'item',
      { id: itemIds.slice(at, at + CHUNK) },
      { columns: ['currency'], distinct: true },
    )
    for (const r of rows) found.add(r.currency)
  }
  return [...found]
}

const warningsOfRow = z.object({
  name: cell.text,
  open: cell.sum,
  currency: cell.text,
})

/** Who owes us while money goes back: allocating comes first. */
async function warningsOf(db: Handle, refunds: readonly { customer: string }[]): Promise<string[]> {
  const numbers = numbersIn(refunds).slice(0, CHUNK)
  const owing = await db.rows(
    warningsOfRow,
    `SELECT c.name, o.currency, SUM(o.open) AS open FROM open_item o JOIN customer c ON c.id = o.customer_id
      WHERE c.number IN (:numbers) AND o.open > 0 GROUP BY c.id, o.currency ORDER BY SUM(o.base_open) DESC LIMIT 3`,
    { numbers },
  )
  const lost = await writtenOffNames(db, numbers)
  return [
    ...lost.slice(0, 3).map(name => `debts of ${name} were written off: what comes back of them comes first`),
    ...owing.map(
      o => `${o.name} owes ${amountWords(Number(o.open), o.currency)}: allocating the credit comes first`,
    ),
  ]
}

export interface Asked {
  numbers: string[]
  waiting: number | null
}

/** Posts refunds, or keeps them for a second person. */
export async function postRefunds(
  database: Handle,
  actor: Actor,
  body: RefundsBody,
  idempotency?: Idempotency,
): Promise<Asked> {
  const done = await performOrKeep<{ numbers: string[] }>(database, actor, refundCommand, body, idempotency)
  return { numbers: done.done?.numbers ?? [], waiting: done.waiting?.id ?? null }
}

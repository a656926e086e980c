import type { z } from 'zod'
import { decideTicked, type PaidPart } from '../../../core/receipts'
import { tickedBody, type Proof } from '../../../contract/receipts'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, perform, type Idempotency } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { findCustomer, idOfCustomer, type Customer } from '../accounts/customers'
import { acceptLine, previewLine } from '../banking/accept'
import { prove } from '../books/proof'
import { ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'
import { lateDiscountNeeds } from './commands'

type Ticked = z.output<typeof tickedBody>

/** One payment for items of one or many customers, ticked off against an advice. */
export const tickedCommand = command({
  name: 'receipts.ticked',
  ability: 'receipts.post',
  needs: lateDiscountNeeds,
  input: tickedBody,
  locks: async (db, input) => {
    const customers: number[] = []
    for (const p of input.parts) customers.push(await idOfCustomer(db, p.customer))
    return { customers }
  },
  load: async (db, input, { settings }: { settings: Settings; actor: Actor }) => {
    const customers: Customer[] = []
    for (const p of input.parts) customers.push(await findCustomer(db, p.customer, {}))
    const parts: PaidPart[] = input.parts.map((p, i) => ({
      ...p,
      customerId: customers[i]!.id,
      amount: p.allocations.reduce((a, x) => a + x.amount, 0) + p.onAccount,
    }))
    const itemIds = input.parts.flatMap(p => [
      ...p.allocations.map(a => a.itemId),
      ...p.credits.flatMap(c => [c.creditItemId, c.debitItemId]),
    ])
    const rates = [{ currency: input.currency, date: input.date }]
    const customerIds = customers.map(c => c.id)
    return {
      parts,
      customer: customers.length === 1 ? customers[0]! : null,
      ledger: await loadState(db, { customerIds, itemIds, rates }, settings),
    }
  },
  decide: decideTicked,
  after: async ({ postings, written }) => ({
    entry: written[0]!.entryNumber,
    receipts: postings[0]!.items.flatMap((i, n) => (i.kind === 'receipt' ? [written[0]!.items[n]!] : [])),
  }),
  about: input => `${input.parts.length} customers`,
})

/** The same as what a bank line is said to be: the money is settled at once. */
const lineAction = (body: Ticked) => ({
  version: body.bankLine!.version,
  learn: true,
  proposed: false,
  action: { kind: 'receipt' as const, lateDiscount: body.lateDiscount, parts: body.parts },
})

export async function previewTicked(database: Handle, actor: Actor, body: Ticked): Promise<Proof> {
  if (body.bankLine) return previewLine(database, actor, body.bankLine.id, lineAction(body))
  return prove(database, actor, tickedCommand, body)
}

export async function postTicked(
  database: Handle,
  actor: Actor,
  body: Ticked,
  idempotency?: Idempotency,
): Promise<{ entry: number; receipts: { id: number; number: string }[] }> {
  if (!body.bankLine) return perform(database, actor, tickedCommand, body, idempotency)
  if (body.mode === 'item') {
    const fault = { path: 'mode', message: 'choose customer' }
    const detail = 'a bank line is posted as one lump for each customer'
    throw new ProblemError(422, 'One line, one lump', detail, [fault])
  }
  const done = await acceptLine(database, actor, body.bankLine.id, lineAction(body), idempotency)
  return {
    entry: done.match!.entry,
    receipts: done.match!.receipts.map(({ id, number }) => ({ id, number })),
  }
}

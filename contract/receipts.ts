import { z } from 'zod'
import { amount, currency, cursor, id, isoDate, limit, minor, search } from './common'
import { operation } from './operation'

export const MEANS = ['transfer', 'cheque', 'cash', 'card'] as const

export const receiptBody = z.object({
  customer: z.string().min(1, { error: 'name the customer' }).max(32), currency: currency.optional().describe("the customer's when left out"), date: isoDate,
  text: z.string().max(200).default(''),
  means: z.array(z.object({ means: z.enum(MEANS), amount, reference: z.string().max(80).default('') })).min(1, { error: 'a receipt needs a payment means' }).max(20),
  allocations: z.array(z.object({
    itemId: id, amount, discount: z.int().min(0).default(0).describe('cash discount taken with this payment'), difference: z.int().min(0).default(0).describe('small difference written off; closes the item'),
  })).max(2000).default([]),
  lateDiscount: z.boolean().default(false).describe('grant a discount that is late; needs the ability `discount.authorise`'),
  onAccount: z.int().min(0, { error: 'what stays on account cannot be less than zero' }).default(0).describe('the rest that stays on account, said and never assumed'),
})
export type ReceiptBody = z.infer<typeof receiptBody>

/** What a posting would write and change: the Proof. */
export const proof = z.object({
  ok: z.boolean(), refusals: z.array(z.object({ rule: z.string(), path: z.string(), message: z.string(), satisfy: z.string() })),
  base: z.string(),
  lines: z.array(z.object({ account: z.string(), name: z.string(), note: z.string(), currency: z.string(), amount: minor, baseAmount: minor })),
  changes: z.object({
    open: z.tuple([minor, minor]), strata: z.tuple([z.array(minor), z.array(minor)]), onAccount: z.tuple([minor, minor]), headroom: z.tuple([minor, minor]).nullable(), exchange: minor,
  }).nullable(),
  links: z.array(z.object({ allocationId: z.int(), kind: z.string(), from: z.string(), to: z.string(), amount: minor, currency: z.string() })).describe('the links that the posting undoes'),
})
export type Proof = z.infer<typeof proof>

export const postedAnswer = z.object({ entry: z.int(), receipt: z.object({ id: z.int(), number: z.string() }).nullable(), allocations: z.array(z.int()) })
export type Posted = z.infer<typeof postedAnswer>

export const receiptRow = z.object({
  id: z.int(), number: z.string(), date: z.string(), customer: z.object({ number: z.string(), name: z.string() }), currency: z.string(), amount: minor, unallocated: minor,
  means: z.string(), reference: z.string(), by: z.string(), reversed: z.boolean(),
})
export const receiptDetail = receiptRow.extend({
  text: z.string(), meansLines: z.array(z.object({ means: z.string(), amount: minor, reference: z.string(), account: z.string(), accountName: z.string() })),
  links: z.array(z.object({ allocationId: z.int(), itemId: z.int(), number: z.string(), kind: z.string(), dueDate: z.string(), amount: minor, effective: z.string(), by: z.string(), at: z.string(), undoes: z.int().nullable(), undone: z.boolean(), creditKind: z.string() })),
  reversal: z.object({ number: z.string(), date: z.string(), reason: z.string() }).nullable(), entries: z.array(z.int()),
})
export type ReceiptDetail = z.infer<typeof receiptDetail>

const params = z.object({ id })
export const allocateBody = z.object({ customer: z.string().min(1).max(32), date: isoDate, pairs: z.array(z.object({ debitItemId: id, creditItemId: id, amount })).min(1, { error: 'choose at least one item' }).max(2000) })
export const unallocateBody = z.object({ customer: z.string().min(1).max(32), date: isoDate, allocationIds: z.array(id).min(1, { error: 'choose at least one link' }).max(2000), reason: z.string().max(200).default('') })
export const reverseBody = z.object({ date: isoDate, reason: z.string().trim().min(1, { error: 'say why in a few words' }).max(200) })

export const receipts = {
  list: operation({ method: 'get', path: '/api/receipts', summary: 'Receipts by number, cheque number, customer or amount', ability: 'books.read', query: z.object({ search, customer: z.string().max(32).optional(), state: z.enum(['all', 'unallocated', 'reversed']).default('all'), limit, cursor }), response: z.object({ items: z.array(receiptRow), next: z.string().nullable(), count: z.int(), totals: z.array(z.object({ currency: z.string(), amount: minor, unallocated: minor })) }) }),
  detail: operation({ method: 'get', path: '/api/receipts/{id}', summary: 'One receipt with all that happened to it', ability: 'books.read', params, response: receiptDetail }),
  preview: operation({ method: 'post', path: '/api/receipts/preview', summary: 'Proof of a receipt; posts nothing', ability: 'receipts.post', body: receiptBody, response: proof }),
  post: operation({ method: 'post', path: '/api/receipts', summary: 'Post a receipt', ability: 'receipts.post', body: receiptBody, response: postedAnswer, status: 201 }),
  previewReverse: operation({ method: 'post', path: '/api/receipts/{id}/reverse/preview', summary: 'Proof of a reversal; posts nothing', ability: 'receipts.correct', params, body: reverseBody, response: proof }),
  reverse: operation({ method: 'post', path: '/api/receipts/{id}/reverse', summary: 'Reverse a receipt', ability: 'receipts.correct', params, body: reverseBody, response: postedAnswer, status: 201 }),
  previewAllocate: operation({ method: 'post', path: '/api/allocations/preview', summary: 'Proof of an allocation; posts nothing', ability: 'receipts.post', body: allocateBody, response: proof }),
  allocate: operation({ method: 'post', path: '/api/allocations', summary: 'Allocate credits to debits of one account', ability: 'receipts.post', body: allocateBody, response: postedAnswer, status: 201 }),
  previewUnallocate: operation({ method: 'post', path: '/api/allocations/undo/preview', summary: 'Proof of an unallocation; posts nothing', ability: 'receipts.correct', body: unallocateBody, response: proof }),
  unallocate: operation({ method: 'post', path: '/api/allocations/undo', summary: 'Unallocate: undo chosen links', ability: 'receipts.correct', body: unallocateBody, response: postedAnswer, status: 201 }),
}

import { z } from 'zod'
import { REFUND_METHODS, type RefundMethod } from '../core/refunds'
import { amount, cursor, customerRef, id, isoDate, limit, minor, search } from './common'
import { operation } from './operation'
import { paymentFileRow } from './payments'
import { proof } from './receipts/forms'

const number = z.string().min(1).max(32)
const line = (most: number) => z.string().trim().max(most)
const why = line(200).min(1, { error: 'say why' })
export const refundMethod = z.enum(Object.keys(REFUND_METHODS) as [RefundMethod, ...RefundMethod[]])

export const refundBody = z.object({
  customer: number,
  method: refundMethod,
  credits: z
    .array(z.object({ itemId: id, amount }))
    .min(1, { error: 'choose a credit' })
    .max(200),
  text: line(120).default(''),
})
export const refundsBody = z.object({
  date: isoDate.optional().describe('of the posting; today when left out'),
  refunds: z.array(refundBody).min(1, { error: 'choose what goes back' }).max(20_000),
  reason: line(200).default(''),
})
export type RefundsBody = z.input<typeof refundsBody>

export const lapseBody = z.object({
  itemIds: z.array(id).min(1, { error: 'choose credits' }).max(500),
  to: z.enum(['income', 'owed']),
  reason: why,
})

/** Why a credit is there. */
export const CREDIT_ORIGINS = {
  advance: 'Advance before an invoice',
  'credit-note': 'Credit note',
  overpaid: 'Paid more than was due',
  twice: 'Paid twice',
  'on-account': 'Money not yet assigned',
  'to-refund': 'Kept to be refunded',
} as const
export type CreditOrigin = keyof typeof CREDIT_ORIGINS

export const refundable = z.object({
  id: z.int(),
  number: z.string(),
  kind: z.string(),
  customer: customerRef,
  country: z.string(),
  currency: z.string(),
  date: z.string(),
  age: z.int().describe('days'),
  amount: minor.describe('as it was posted'),
  open: minor,
  baseOpen: minor,
  origin: z.enum(Object.keys(CREDIT_ORIGINS) as [CreditOrigin, ...CreditOrigin[]]),
  arose: z.string().describe('why it is there, in words'),
  owes: minor.describe('open debits of the account in this currency: allocating comes first'),
  overdue: minor,
  method: refundMethod.describe('how it would go back'),
  waiting: z.int().nullable().describe('of Sign-off, when its refund waits for a second person'),
  stop: z.string().describe('why it cannot be refunded now, and what would change that; empty for nothing'),
  lapse: z.object({
    on: z.string().describe('from this day it may be taken off as unclaimed'),
    to: z.enum(['income', 'owed']).nullable().describe('what the rule of the country says; null: a choice'),
    may: z.boolean(),
  }),
  wrote: z.string().nullable().describe('when the customer was last written to about its credit'),
})
export type Refundable = z.infer<typeof refundable>

export const refundState = z.enum(['waits', 'cheque', 'in-file', 'sent', 'settled', 'refused', 'taken-back'])
export const refundRow = z.object({
  id: z.int(),
  number: z.string(),
  customer: customerRef,
  date: z.string(),
  method: refundMethod,
  currency: z.string(),
  amount: minor,
  iban: z.string(),
  holder: z.string(),
  text: z.string(),
  state: refundState,
  told: z.string().describe('where it stands, in words'),
  file: z.object({ id: z.int(), number: z.string(), state: z.string() }).nullable(),
  cheque: z
    .object({ id: z.int(), number: z.string(), issuedOn: z.string(), late: z.boolean() })
    .nullable()
    .describe('that is not void; late: not cashed within the days of Setup'),
  credits: z.array(z.object({ id: z.int(), number: z.string(), amount: minor })),
  by: z.string(),
})
export type RefundRow = z.infer<typeof refundRow>

export const chequeRow = z.object({
  id: z.int(),
  number: z.string(),
  account: z.string(),
  refund: z.object({ id: z.int(), number: z.string() }),
  customer: customerRef,
  currency: z.string(),
  amount: minor,
  issuedOn: z.string(),
  voidOn: z.string().nullable(),
  voidWhy: z.string(),
  cashed: z.boolean(),
  late: z.boolean(),
  by: z.string(),
})
export type ChequeRow = z.infer<typeof chequeRow>

const sums = z.array(z.object({ currency: z.string(), amount: minor, count: z.int() }))
const params = z.object({ id })

/** Money that goes back to customers. */
export const refunds = {
  credits: operation({
    method: 'get',
    path: '/api/refunds/credits',
    summary: 'Credits that can be refunded, the oldest first, each with why it arose',
    ability: 'books.read',
    query: z.object({
      customer: number.optional(),
      currency: z.string().length(3).optional(),
      search,
      only: z.enum(['all', 'refundable', 'asked', 'unclaimed']).default('all'),
      limit,
      cursor,
    }),
    response: z.object({
      items: z.array(refundable),
      totals: z.object({ base: z.string(), open: minor, count: z.int() }),
      next: z.string().nullable(),
    }),
  }),
  list: operation({
    method: 'get',
    path: '/api/refunds',
    summary: 'Refunds, the newest first, with where each stands',
    ability: 'books.read',
    query: z.object({
      state: z.enum(['open', 'waits', 'all']).default('all').describe('waits: for a file or a cheque'),
      customer: number.optional(),
      search,
      limit,
      cursor,
    }),
    response: z.object({ items: z.array(refundRow), totals: sums, next: z.string().nullable() }),
  }),
  post: operation({
    method: 'post',
    path: '/api/refunds',
    summary: 'Refund credits, of one or many customers: posted, or kept for a second person',
    ability: 'refunds.post',
    body: refundsBody,
    response: z.object({
      numbers: z.array(z.string()),
      waiting: z.int().nullable().describe('of Sign-off, when a second person must sign'),
    }),
    status: 201,
  }),
  proof: operation({
    method: 'post',
    path: '/api/refunds/proof',
    summary: 'What the refunds would post',
    ability: 'refunds.post',
    body: refundsBody,
    response: proof,
  }),
  undo: operation({
    method: 'post',
    path: '/api/refunds/{id}/undo',
    summary: 'Take a refund back that was not paid: the credit is open again',
    ability: 'refunds.post',
    params,
    body: z.object({ reason: why }),
    response: refundRow,
  }),
  file: operation({
    method: 'post',
    path: '/api/refunds/files',
    summary: 'Make a file of transfers (pain.001) of refunds that wait',
    ability: 'payments.send',
    body: z.object({
      refunds: z.array(id).max(20_000).optional().describe('all that wait in the currency when left out'),
      currency: z.string().length(3),
      executeOn: isoDate.optional().describe('the next day on which banks work when left out'),
    }),
    response: paymentFileRow.extend({
      told: z.array(z.string()).describe('what the bank will read differently from how it is written'),
    }),
    status: 201,
  }),
  cards: operation({
    method: 'post',
    path: '/api/refunds/cards',
    summary: 'Give the refunds by card that wait to the card terminal; what it refuses is open again',
    ability: 'payments.send',
    response: z.object({
      paid: z.int(),
      refused: z.array(z.object({ number: z.string(), why: z.string() })),
    }),
  }),
  cheques: operation({
    method: 'get',
    path: '/api/refunds/cheques',
    summary: 'Cheques written for refunds, the newest first',
    ability: 'books.read',
    query: z.object({ state: z.enum(['open', 'all']).default('all'), search, limit, cursor }),
    response: z.object({ items: z.array(chequeRow), next: z.string().nullable() }),
  }),
  writeCheque: operation({
    method: 'post',
    path: '/api/refunds/{id}/cheque',
    summary: 'Write the cheque of a refund: the next number, or the one on the paper',
    ability: 'refunds.post',
    params,
    body: z.object({ number: z.string().trim().max(20).optional() }),
    response: chequeRow,
    status: 201,
  }),
  voidCheque: operation({
    method: 'post',
    path: '/api/refunds/cheques/{id}/void',
    summary: 'Void a cheque; another may be written for the refund',
    ability: 'refunds.post',
    params,
    body: z.object({ reason: why }),
    response: chequeRow,
  }),
  chequePdf: operation({
    method: 'get',
    path: '/api/refunds/cheques/{id}/pdf',
    summary: 'A cheque to print, with the amount in words, and the advice of it',
    ability: 'books.read',
    params,
    responseType: 'application/pdf',
  }),
  lapse: operation({
    method: 'post',
    path: '/api/refunds/lapse',
    summary: 'Take unclaimed credits off their accounts, to income or to what is owed further',
    ability: 'refunds.post',
    body: lapseBody,
    response: z.object({ numbers: z.array(z.string()), waiting: z.int().nullable() }),
  }),
  lapseProof: operation({
    method: 'post',
    path: '/api/refunds/lapse/proof',
    summary: 'What taking credits off would post',
    ability: 'refunds.post',
    body: lapseBody,
    response: proof,
  }),
  remind: operation({
    method: 'post',
    path: '/api/refunds/unclaimed/letters',
    summary: 'Write to customers that credit of theirs waits for them',
    ability: 'letters.send',
    body: z.object({ itemIds: z.array(id).min(1).max(500) }),
    response: z.object({ sent: z.int() }),
  }),
}

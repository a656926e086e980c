import { z } from 'zod'
import type { DisputeReason } from '../../core/disputes'
import { amount, currency, id, isoDate, minor } from '../common'

export const MEANS = ['transfer', 'cheque', 'cash', 'card'] as const

/** Why a customer deducts: those of the reasons of a dispute that a short payment bears. */
export const DEDUCTION_REASONS = [
  'price',
  'quantity',
  'quality',
  'late-delivery',
  'not-ordered',
  'credit-missing',
  'freight',
  'other',
] as const satisfies readonly DisputeReason[]

export const receiptBody = z.object({
  customer: z.string().min(1, { error: 'name the customer' }).max(32),
  currency: currency.optional().describe("the customer's when left out"),
  date: isoDate,
  text: z.string().max(200).default(''),
  means: z
    .array(z.object({ means: z.enum(MEANS), amount, reference: z.string().max(80).default('') }))
    .min(1, { error: 'a receipt needs a payment means' })
    .max(20),
  allocations: z
    .array(
      z.object({
        itemId: id,
        amount,
        paid: amount.optional().describe('in the currency of the receipt, when the item is in another'),
        deduction: z
          .object({ reason: z.enum(DEDUCTION_REASONS), note: z.string().max(300).default('') })
          .optional()
          .describe('what is left open is a deduction: opens a dispute'),
        discount: z.int().min(0).default(0).describe('cash discount taken with this payment'),
        difference: z.int().min(0).default(0).describe('small difference written off; closes the item'),
      }),
    )
    .max(2000)
    .default([]),
  lateDiscount: z
    .boolean()
    .default(false)
    .describe('grant a discount that is late; needs the ability `discount.authorise`'),
  advance: z
    .boolean()
    .default(false)
    .describe('money before the invoice: a liability until applied; nothing is allocated'),
  rest: z
    .object({ use: z.enum(['account', 'item', 'refund']), itemId: id.nullable().default(null) })
    .optional()
    .describe(
      'what the rest is kept for: on account, for one item (where the class allows it), or to refund',
    ),
  onAccount: z
    .int()
    .min(0, { error: 'what stays on account cannot be less than zero' })
    .default(0)
    .describe('the rest that stays on account, said and never assumed'),
})
export type ReceiptBody = z.infer<typeof receiptBody>

/** What a posting would write and change: the Proof. */
export const proof = z.object({
  ok: z.boolean(),
  refusals: z.array(
    z.object({ rule: z.string(), path: z.string(), message: z.string(), satisfy: z.string() }),
  ),
  base: z.string(),
  lines: z.array(
    z.object({
      account: z.string(),
      name: z.string(),
      note: z.string(),
      currency: z.string(),
      amount: minor,
      baseAmount: minor,
    }),
  ),
  changes: z
    .object({
      open: z.tuple([minor, minor]),
      strata: z.tuple([z.array(minor), z.array(minor)]),
      onAccount: z.tuple([minor, minor]),
      headroom: z.tuple([minor, minor]).nullable(),
      exchange: minor,
    })
    .nullable(),
  warnings: z.array(z.string()).describe('what is allowed but worth a second look'),
  links: z
    .array(
      z.object({
        allocationId: z.int(),
        kind: z.string(),
        from: z.string(),
        to: z.string(),
        amount: minor,
        currency: z.string(),
      }),
    )
    .describe('the links that the posting undoes'),
})
export type Proof = z.infer<typeof proof>

export const postedAnswer = z.object({
  entry: z.int(),
  receipt: z.object({ id: z.int(), number: z.string() }).nullable(),
  allocations: z.array(z.int()),
})
export type Posted = z.infer<typeof postedAnswer>

export const receiptRow = z.object({
  id: z.int(),
  number: z.string(),
  date: z.string(),
  customer: z.object({ number: z.string(), name: z.string() }),
  currency: z.string(),
  amount: minor,
  unallocated: minor,
  means: z.string(),
  reference: z.string(),
  by: z.string(),
  reversed: z.boolean(),
  kind: z.enum(['receipt', 'advance']),
  state: z
    .enum(['tray', 'covered', 'settled', 'partly settled', 'reversed'])
    .describe('where the money is: in the tray, posted and awaited, seen at the bank'),
  restUse: z.string(),
  text: z.string(),
})
export const receiptDetail = receiptRow.extend({
  meansLines: z.array(
    z.object({
      means: z.string(),
      amount: minor,
      reference: z.string(),
      account: z.string(),
      accountName: z.string(),
    }),
  ),
  links: z.array(
    z.object({
      allocationId: z.int(),
      itemId: z.int(),
      number: z.string(),
      kind: z.string(),
      dueDate: z.string(),
      amount: minor,
      effective: z.string(),
      by: z.string(),
      at: z.string(),
      undoes: z.int().nullable(),
      undone: z.boolean(),
      creditKind: z.string(),
    }),
  ),
  batch: z.object({ id: z.int(), number: z.string() }).nullable(),
  bankLines: z.array(z.object({ id: z.int(), date: z.string(), text: z.string(), direct: z.boolean() })),
  became: z
    .object({ id: z.int(), number: z.string() })
    .nullable()
    .describe('the receipt that was put in its place'),
  was: z.object({ id: z.int(), number: z.string() }).nullable(),
  deductions: z.array(
    z.object({ item: z.string(), amount: minor, reason: z.string(), note: z.string(), live: z.boolean() }),
  ),
  reversal: z.object({ number: z.string(), date: z.string(), reason: z.string() }).nullable(),
  entries: z.array(z.int()),
})
export type ReceiptDetail = z.infer<typeof receiptDetail>

export const params = z.object({ id })
export const allocateBody = z.object({
  customer: z.string().min(1).max(32),
  date: isoDate,
  lateDiscount: z.boolean().default(false),
  pairs: z
    .array(
      z.object({
        debitItemId: id,
        creditItemId: id,
        amount,
        discount: z.int().min(0).default(0).describe('earned by the day the money was paid'),
        difference: z.int().min(0).default(0),
      }),
    )
    .min(1, { error: 'choose at least one item' })
    .max(2000),
})
export const unallocateBody = z.object({
  customer: z.string().min(1).max(32),
  date: isoDate,
  allocationIds: z.array(id).min(1, { error: 'choose at least one link' }).max(2000),
  reason: z.string().max(200).default(''),
})
export const reverseBody = z.object({
  date: isoDate,
  reason: z.string().trim().min(1, { error: 'say why in a few words' }).max(200),
  fee: z.int().min(0).default(0).describe('bank fee charged on to the customer'),
})
export const sundryBody = z.object({
  date: isoDate,
  currency,
  amount,
  means: z.enum(MEANS),
  reference: z.string().max(80).default(''),
  payer: z.string().trim().min(1, { error: 'say who paid' }).max(160),
  text: z.string().max(200).default(''),
  account: z.string().min(1).max(16).describe('ledger account that the money is for'),
})
export const sundryRow = z.object({
  id: z.int(),
  number: z.string(),
  date: z.string(),
  currency: z.string(),
  amount: minor,
  payer: z.string(),
  text: z.string(),
  account: z.string(),
  accountName: z.string(),
  means: z.string(),
  reference: z.string(),
  voided: z.boolean(),
  by: z.string(),
  entry: z.int(),
})
export type SundryRow = z.infer<typeof sundryRow>
export const putRightBody = z.object({
  reason: z.string().trim().min(1, { error: 'say why in a few words' }).max(200),
  customer: z.string().min(1).max(32).optional().describe('who really paid; the links are then taken back'),
  date: isoDate.optional().describe('when it was really paid'),
  means: z
    .array(z.object({ amount: amount.optional(), reference: z.string().max(80).optional() }))
    .max(20)
    .optional()
    .describe('for each payment means in turn, what it should have been'),
})
/** One payment for items of one or many customers, ticked off against an advice. */
export const tickedBody = z.object({
  date: isoDate,
  currency,
  means: z.enum(MEANS),
  reference: z.string().max(80).default(''),
  text: z.string().max(200).default(''),
  mode: z.enum(['item', 'customer']).describe('one receipt per item, or one lump per customer'),
  lateDiscount: z.boolean().default(false),
  total: amount.optional().describe('what came in; refused when the ticks make another sum'),
  bankLine: z.object({ id, version: z.int() }).optional().describe('the bank line that shows the money'),
  parts: z
    .array(
      z.object({
        customer: z.string().min(1).max(32),
        allocations: z
          .array(
            z.object({
              itemId: id,
              amount,
              discount: z.int().min(0).default(0),
              difference: z.int().min(0).default(0),
            }),
          )
          .max(2000),
        credits: z
          .array(z.object({ creditItemId: id, debitItemId: id, amount }))
          .max(500)
          .default([]),
        onAccount: z.int().min(0).default(0),
      }),
    )
    .min(1, { error: 'tick what was paid' })
    .max(500),
})
export type TickedBody = z.input<typeof tickedBody>
export const openItem = z.object({
  id: z.int(),
  number: z.string(),
  kind: z.string(),
  customer: z.string(),
  name: z.string(),
  group: z.string(),
  text: z.string(),
  order: z.string(),
  documentDate: z.string(),
  dueDate: z.string(),
  daysLate: z.int(),
  amount: minor,
  open: minor,
  baseOpen: minor,
  discount: z.object({ amount: minor, until: z.string() }).nullable(),
  offered: minor,
  disputed: z.boolean(),
})
export type OpenItem = z.infer<typeof openItem>
export const adviceLine = z.object({
  number: z.string(),
  amount: minor.nullable(),
  discount: minor,
  itemId: z.int().nullable(),
  customer: z.string(),
  problem: z.string(),
})

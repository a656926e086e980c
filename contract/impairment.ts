import { z } from 'zod'
import { COMMISSION, WRITE_OFF_REASONS, type Commission, type WriteOffReason } from '../core/impairment'
import { amount, cursor, customerRef, id, isoDate, limit, minor, search, TABLE_TYPES } from './common'
import { operation } from './operation'
import { proof } from './receipts/forms'

const number = z.string().min(1).max(32)
const why = z.string().trim().min(1, { error: 'say why' }).max(200)
const params = z.object({ id })
export const writeOffReason = z.enum(Object.keys(WRITE_OFF_REASONS) as [WriteOffReason, ...WriteOffReason[]])
const commission = z.enum(Object.keys(COMMISSION) as [Commission, ...Commission[]])

export const writeOffBody = z.object({
  items: z
    .array(z.object({ itemId: id, amount: amount.optional().describe('all that is open when left out') }))
    .min(1, { error: 'choose what is written off' })
    .max(20_000),
  reason: writeOffReason,
  text: why,
  against: z.enum(['expense', 'allowance']).default('expense'),
  commission: commission.describe('what becomes of the seller’s commission: asked, never assumed'),
})
export type WriteOffBody = z.input<typeof writeOffBody>

export const recoveryBody = z.object({
  creditItemId: id,
  parts: z
    .array(z.object({ writeOffId: id, amount }))
    .min(1, { error: 'choose what came back' })
    .max(500),
})
export type RecoveryBody = z.input<typeof recoveryBody>

/** An open item that may be written off. */
export const lossCandidate = z.object({
  id: z.int(),
  number: z.string(),
  kind: z.string(),
  customer: customerRef,
  currency: z.string(),
  date: z.string(),
  due: z.string(),
  daysLate: z.int(),
  amount: minor,
  open: minor,
  baseOpen: minor,
  level: z.int().describe('of the last reminder; 0 for none'),
  named: z.boolean().describe('judged by name: something is set aside for it'),
  stop: z.string().describe('why it cannot be written off now; empty for nothing'),
})
export type LossCandidate = z.infer<typeof lossCandidate>

export const writeOffRow = z.object({
  id: z.int().describe('of the item that closed it'),
  number: z.string(),
  of: z.object({ id: z.int(), number: z.string() }),
  customer: customerRef,
  date: z.string(),
  currency: z.string(),
  amount: minor,
  base: minor,
  reason: writeOffReason.nullable().describe('null: by a dispute'),
  text: z.string(),
  against: z.enum(['expense', 'allowance']),
  commission: commission.nullable(),
  tax: minor,
  relief: z.enum(['none', 'waits', 'claimed']),
  reliefWhy: z.string(),
  recovered: minor,
  recoveries: z
    .array(
      z.object({
        id: z.int().describe('of the item, by which it is taken back'),
        number: z.string(),
        date: z.string(),
        amount: minor,
        credit: z.string().describe('the receipt that brought it'),
      }),
    )
    .describe('those that stand'),
  undone: z.boolean(),
  by: z.string(),
  signedBy: z.string().describe('empty where one person was enough'),
})
export type WriteOffRow = z.infer<typeof writeOffRow>

/** Money on an account of which something was written off. */
export const recoverable = z.object({
  credit: z.object({ id: z.int(), number: z.string(), date: z.string(), open: minor }),
  customer: customerRef,
  currency: z.string(),
  owes: minor.describe('open claims of the account: allocating comes first'),
  writeOffs: z.array(z.object({ id: z.int(), number: z.string(), of: z.string(), left: minor })),
})
export type Recoverable = z.infer<typeof recoverable>

export const LOSS_GROUPINGS = ['reason', 'customer', 'class', 'seller', 'month', 'signer'] as const
export type LossGrouping = (typeof LOSS_GROUPINGS)[number]
const reportQuery = z.object({
  by: z.enum(LOSS_GROUPINGS).default('reason'),
  from: isoDate.optional().describe('a year before `to` when left out'),
  to: isoDate.optional().describe('today when left out'),
})
const lossGroup = z.object({
  key: z.string(),
  name: z.string(),
  count: z.int(),
  lost: minor,
  allowance: minor.describe('of it against the allowance'),
  tax: minor.describe('claimed back'),
  recovered: minor,
  net: minor.describe('lost, less tax claimed back and what came back'),
  billed: minor.nullable().describe('in the same time; null where that says nothing'),
  rate: z.number().nullable().describe('net of billed, per cent'),
})
export type LossGroup = z.infer<typeof lossGroup>
const lossReport = z.object({
  base: z.string(),
  from: z.string(),
  to: z.string(),
  groups: z.array(lossGroup),
  total: lossGroup,
})
export type LossReport = z.infer<typeof lossReport>

export const claimBody = z.object({
  customer: number,
  administrator: z.string().trim().min(1, { error: 'say who it is filed with' }).max(80),
  address: z.string().trim().max(200).default('').describe('lines with commas'),
  reference: z.string().trim().max(60).default('').describe('of the court'),
  openedOn: isoDate,
  dividend: z.int().min(0).max(10_000).default(0).describe('expected, hundredths of a per cent'),
})
export const insolvencyClaim = z.object({
  id: z.int(),
  customer: customerRef,
  administrator: z.string(),
  reference: z.string(),
  openedOn: z.string(),
  dividend: z.int(),
  amount: minor.describe('claimed, base currency'),
  expected: minor.describe('of it, by the dividend'),
  recovered: minor.describe('came back, base currency'),
  date: z.string(),
  by: z.string(),
})
export type InsolvencyClaim = z.infer<typeof insolvencyClaim>

const posted = z.object({
  numbers: z.array(z.string()),
  waiting: z.int().nullable().describe('of Sign-off, when a second person must sign'),
})

/** Debts that are lost, and what of them comes back. */
export const impairment = {
  candidates: operation({
    method: 'get',
    path: '/api/impairment/candidates',
    summary: 'Open claims that may be written off: small and old ones, or all of one customer',
    ability: 'books.read',
    query: z.object({
      customer: number.optional(),
      currency: z.string().length(3).optional(),
      most: z.coerce
        .number()
        .int()
        .min(1)
        .optional()
        .describe('not more is open, minor units of the currency that is asked for, or else of base'),
      days: z.coerce.number().int().min(0).default(0).describe('so many days late or more'),
      search,
      limit,
      cursor,
    }),
    response: z.object({
      items: z.array(lossCandidate),
      totals: z.object({
        base: z.string(),
        open: minor,
        count: z.int(),
        setAside: minor.describe('what is left of the allowance'),
      }),
      next: z.string().nullable(),
    }),
  }),
  writeOff: operation({
    method: 'post',
    path: '/api/impairment/write-offs',
    summary: 'Write items off, of one or many customers: posted, or kept for a second person',
    ability: 'impairment.post',
    body: writeOffBody,
    response: posted,
    status: 201,
  }),
  proof: operation({
    method: 'post',
    path: '/api/impairment/write-offs/proof',
    summary: 'What the write-off would post',
    ability: 'impairment.post',
    body: writeOffBody,
    response: proof,
  }),
  list: operation({
    method: 'get',
    path: '/api/impairment/write-offs',
    summary: 'What was written off, the newest first, with what came back; sums by reason',
    ability: 'books.read',
    query: z.object({
      customer: number.optional(),
      reason: writeOffReason.optional(),
      from: isoDate.optional(),
      to: isoDate.optional(),
      search,
      limit,
      cursor,
    }),
    response: z.object({
      items: z.array(writeOffRow),
      base: z.string(),
      byReason: z.array(
        z.object({
          reason: writeOffReason.nullable(),
          count: z.int(),
          base: minor,
          recovered: minor.describe('in base currency'),
        }),
      ),
      waiting: z.object({ count: z.int(), taxBase: minor }).describe('tax that may be claimed later'),
      next: z.string().nullable(),
    }),
  }),
  undo: operation({
    method: 'post',
    path: '/api/impairment/write-offs/{id}/undo',
    summary: 'Take a write-off back, its item is open again; or a recovery, its money is on account again',
    ability: 'impairment.post',
    params,
    body: z.object({ reason: why }),
    response: z.object({ undone: z.boolean() }),
  }),
  claims: operation({
    method: 'get',
    path: '/api/impairment/claims',
    summary: 'Claims filed in insolvencies: what is expected of each, and what came',
    ability: 'books.read',
    response: z.object({ items: z.array(insolvencyClaim), base: z.string() }),
  }),
  fileClaim: operation({
    method: 'post',
    path: '/api/impairment/claims',
    summary: 'File all that an insolvent customer owes, as a letter with the list of its items',
    ability: 'impairment.post',
    body: claimBody,
    response: z.object({ id: z.int() }),
    status: 201,
  }),
  claimPdf: operation({
    method: 'get',
    path: '/api/impairment/claims/{id}/pdf',
    summary: 'A claim as it was filed',
    ability: 'books.read',
    params,
    responseType: 'application/pdf',
  }),
  report: operation({
    method: 'get',
    path: '/api/impairment/report',
    summary: 'Losses of a time by reason, customer, class, seller, month or who signed; base currency',
    ability: 'books.read',
    query: reportQuery,
    response: lossReport,
  }),
  reportFile: operation({
    method: 'get',
    path: '/api/impairment/report/export',
    summary: 'The same as a file',
    ability: 'books.read',
    query: reportQuery.extend({ format: z.enum(['csv', 'xlsx']).default('csv') }),
    responseType: TABLE_TYPES,
  }),
  relief: operation({
    method: 'post',
    path: '/api/impairment/relief',
    summary: 'Claim back the tax of write-offs whose conditions hold by now',
    ability: 'impairment.post',
    response: z.object({ claimed: z.int(), taxBase: minor }),
  }),
  recoverable: operation({
    method: 'get',
    path: '/api/impairment/recoverable',
    summary: 'Money on accounts of which something was written off',
    ability: 'books.read',
    query: z.object({ customer: number.optional() }),
    response: z.object({ items: z.array(recoverable) }),
  }),
  recover: operation({
    method: 'post',
    path: '/api/impairment/recoveries',
    summary: 'Post money on the account as recovered from write-offs',
    ability: 'impairment.post',
    body: recoveryBody,
    response: z.object({ numbers: z.array(z.string()) }),
    status: 201,
  }),
  recoveryProof: operation({
    method: 'post',
    path: '/api/impairment/recoveries/proof',
    summary: 'What the recovery would post',
    ability: 'impairment.post',
    body: recoveryBody,
    response: proof,
  }),
}

import { z } from 'zod'
import { HOLD_CAUSES, type HoldCause } from '../core/exposure'
import { amount, currency, isoDate, minor, customerRef } from './common'
import { operation } from './operation'

const line = (most: number) => z.string().trim().max(most)
const number = z.string().min(1).max(32)
const cause = z.enum(Object.keys(HOLD_CAUSES) as [HoldCause, ...HoldCause[]])

const parts = z
  .object({
    receivables: minor,
    onAccount: minor.describe('unallocated credit, negative'),
    delivered: minor.describe('delivered, not invoiced'),
    orders: minor.describe('ordered, neither delivered nor invoiced'),
    notFinal: minor.describe('cheques that the bank has not shown'),
    secured: minor.describe('insured, negative'),
  })
  .describe('base currency; they add up to the total')
const standing = {
  parts,
  total: minor,
  limit: minor.nullable().describe('in force today, base currency'),
  headroom: minor.nullable(),
  used: z.number().nullable().describe('percent of the limit'),
}
const hold = z.object({
  cause,
  label: z.string(),
  words: z.string(),
  toPay: minor.nullable().describe('what would have to be paid for it to go'),
})
export const holdHistory = z.object({
  id: z.int(),
  cause: z.string(),
  label: z.string().optional(),
  reason: z.string(),
  date: z.string().describe('business date'),
  by: z.string().nullable().describe('null: a rule'),
  endedOn: z.string().nullable(),
  endedBy: z.string().nullable(),
  endReason: z.string(),
  releasedUntil: z.string().nullable(),
})
export type HoldHistory = z.infer<typeof holdHistory>

export const exposureAnswer = z.object({
  number: z.string(),
  name: z.string(),
  base: z.string(),
  account: z.object(standing),
  terms: z.object({
    amount: minor.nullable(),
    currency: z.string(),
    from: z.string().nullable(),
    until: z.string().nullable(),
    insured: minor.nullable(),
    insuredUntil: z.string().nullable(),
  }),
  group: z.object({ head: customerRef, members: z.int(), ...standing }).nullable(),
  holds: z.array(hold),
  history: z.array(holdHistory),
})
export type ExposureAnswer = z.infer<typeof exposureAnswer>

export const checkAnswer = z.object({
  yes: z.boolean(),
  customer: customerRef,
  base: z.string(),
  amount: minor.describe('of the order, base currency'),
  exposure: minor,
  after: minor,
  limit: minor.nullable(),
  holds: z.array(hold),
  reasons: z.array(
    z.object({
      rule: z.enum(['closed', 'held', 'limit', 'group', 'expired']),
      message: z.string(),
      satisfy: z.string(),
      toPay: minor.nullable(),
      limitNeeded: minor.nullable(),
    }),
  ),
})
export type CheckAnswer = z.infer<typeof checkAnswer>

export const exposureMakeUp = z.object({
  base: z.string(),
  items: z.array(
    z.object({
      number: z.string(),
      date: z.string(),
      currency: z.string(),
      documentAmount: minor,
      amount: minor.describe('base currency'),
    }),
  ),
  total: minor,
})
export type ExposureMakeUp = z.infer<typeof exposureMakeUp>

const heldRow = z.object({
  customer: customerRef,
  holds: z.array(hold),
  since: z.string().nullable(),
  exposure: minor,
  limit: minor.nullable(),
  overdue: minor.describe('overdue for longer than the rule allows'),
  waiting: z.int().nullable().describe('of Sign-off, when a release waits for a second person'),
})
export type HeldRow = z.infer<typeof heldRow>
const share = z.object({ key: z.string(), name: z.string(), exposure: minor, share: z.number() })
export const concentration = z.object({
  base: z.string(),
  total: minor,
  largest: z.array(share.extend({ limit: minor.nullable() })),
  byClass: z.array(share),
  byCountry: z.array(share),
})
export type Concentration = z.infer<typeof concentration>

export const order = z.object({
  number: z.string().trim().min(1).max(48),
  customer: number,
  date: isoDate,
  currency,
  amount: z.int().min(0),
  delivered: z.int().min(0).default(0),
  invoiced: z.int().min(0).default(0),
  state: z.enum(['open', 'closed', 'cancelled']).default('open'),
})
export const ORDER_COLUMNS = [
  'number',
  'customer',
  'date',
  'currency',
  'amount',
  'delivered',
  'invoiced',
  'state',
] as const

export const releaseBody = z.object({
  customer: number,
  cause,
  reason: line(200).min(1, { error: 'say why' }),
  until: isoDate.nullable().default(null),
})

export const exposure = {
  check: operation({
    method: 'post',
    path: '/api/exposure/check',
    summary: 'May an order of this amount go? Yes, or no with every reason and what would make it yes',
    ability: 'read',
    body: z.object({ customer: number, currency, amount }),
    response: checkAnswer,
  }),
  account: operation({
    method: 'get',
    path: '/api/exposure/accounts/{number}',
    summary: 'Exposure of an account and of its group, part by part',
    ability: 'read',
    params: z.object({ number }),
    response: exposureAnswer,
  }),
  makeUp: operation({
    method: 'get',
    path: '/api/exposure/accounts/{number}/parts',
    summary: 'The orders, deliveries or cheques that a part of the exposure is made of',
    ability: 'read',
    params: z.object({ number }),
    query: z.object({ part: z.enum(['delivered', 'orders', 'notFinal']) }),
    response: exposureMakeUp,
  }),
  holds: operation({
    method: 'get',
    path: '/api/exposure/holds',
    summary: 'Accounts that are held, with what each waits for',
    ability: 'read',
    response: z.object({ base: z.string(), items: z.array(heldRow) }),
  }),
  setHold: operation({
    method: 'post',
    path: '/api/exposure/holds',
    summary: 'Hold an account by hand',
    ability: 'holds.set',
    body: z.object({ customer: number, reason: line(200).min(1, { error: 'say why' }) }),
    response: z.object({ id: z.int() }),
    status: 201,
  }),
  release: operation({
    method: 'post',
    path: '/api/exposure/holds/release',
    summary: 'Release a hold until a day; above a threshold a second person signs',
    ability: 'holds.set',
    body: releaseBody,
    response: z.object({ released: z.boolean(), waiting: z.int().nullable() }),
  }),
  concentration: operation({
    method: 'get',
    path: '/api/exposure/concentration',
    summary: 'The largest ten accounts, and exposure by class and country',
    ability: 'read',
    response: concentration,
  }),
  orders: operation({
    method: 'post',
    path: '/api/exposure/orders',
    summary: 'Orders and deliveries as the order desk has them now: new ones are added, known ones changed',
    ability: 'import',
    body: z.object({ orders: z.array(order).min(1, { error: 'send at least one order' }).max(5000) }),
    response: z.object({ added: z.int(), changed: z.int() }),
  }),
}

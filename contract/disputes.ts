import { z } from 'zod'
import {
  DISPUTE_REASONS,
  FAULTS,
  RESOLUTIONS,
  type DisputeReason,
  type Fault,
  type Resolution,
} from '../core/disputes'
import { amount, cursor, customerRef, id, isoDate, limit, minor, search } from './common'
import { operation } from './operation'
import { proof } from './receipts/forms'

const line = (most: number) => z.string().trim().max(most)
const number = z.string().min(1).max(32)
const reason = z.enum(Object.keys(DISPUTE_REASONS) as [DisputeReason, ...DisputeReason[]])
const fault = z.enum(Object.keys(FAULTS) as [Fault, ...Fault[]])
const resolution = z.enum(Object.keys(RESOLUTIONS) as [Resolution, ...Resolution[]])
const itemAmounts = z.array(z.object({ itemId: id, amount }))
/** A person is named by their address. */
const person = z.string().trim().min(3).max(190)

export const disputeRow = z.object({
  id: z.int(),
  version: z.int(),
  customer: customerRef,
  currency: z.string(),
  reason,
  fault,
  text: z.string(),
  owner: z.object({ email: z.string(), name: z.string() }),
  openedOn: z.string(),
  deadline: z.string(),
  age: z.int().describe('days since it was opened, until it was resolved'),
  amount: minor.describe('disputed, as it was claimed'),
  left: minor.describe('disputed and still open'),
  baseLeft: minor,
  items: z.array(z.object({ id: z.int(), number: z.string(), amount: minor, open: minor })),
  receipt: z.object({ id: z.int(), number: z.string() }).nullable().describe('whose deduction it is'),
  resolution: z.union([resolution, z.literal('')]),
  resolved: z
    .object({ on: z.string(), by: z.string(), text: z.string(), entry: z.int().nullable() })
    .nullable(),
  waiting: z.int().nullable().describe('of Sign-off, when its resolution waits for a second person'),
})
export type DisputeRow = z.infer<typeof disputeRow>

export const disputeBody = z.object({
  customer: number,
  reason,
  fault: fault.default('unknown'),
  text: line(500).default(''),
  owner: person.optional().describe('who sees to it; whoever opens it when left out'),
  deadline: isoDate.optional(),
  items: itemAmounts.min(1, { error: 'choose what is disputed' }).max(200),
})

const sums = z.object({
  key: z.string(),
  name: z.string(),
  count: z.int(),
  amount: minor.describe('still open, base currency'),
  ages: z.array(minor).describe('the same by days since opened: to 7, 14, 30, 60, more'),
  resolved: z.int().describe('in the last year'),
  days: z.number().nullable().describe('that those took, on average'),
})
export type DisputeSums = z.infer<typeof sums>

export const DISPUTE_SORTS = ['deadline', 'age', 'amount', 'customer'] as const

/** What customers dispute. */
export const disputes = {
  list: operation({
    method: 'get',
    path: '/api/disputes',
    summary: 'Disputes, by deadline unless sorted otherwise',
    ability: 'read',
    query: z.object({
      state: z.enum(['open', 'resolved', 'all']).default('open'),
      reason: reason.optional(),
      owner: person.optional(),
      customer: number.optional(),
      search,
      sort: z.enum(DISPUTE_SORTS).default('deadline'),
      limit,
      cursor,
    }),
    response: z.object({
      items: z.array(disputeRow),
      totals: z.object({ count: z.int(), base: z.string(), left: minor, late: z.int() }),
      next: z.string().nullable(),
    }),
  }),
  sums: operation({
    method: 'get',
    path: '/api/disputes/sums',
    summary: 'Ages of open disputes and how long resolving takes, by reason or owner',
    ability: 'read',
    query: z.object({ by: z.enum(['reason', 'owner', 'fault']).default('reason') }),
    response: z.object({ base: z.string(), items: z.array(sums) }),
  }),
  open: operation({
    method: 'post',
    path: '/api/disputes',
    summary: 'Open a dispute over items, whole or in part',
    ability: 'chase.keep',
    body: disputeBody,
    response: disputeRow,
    status: 201,
  }),
  change: operation({
    method: 'put',
    path: '/api/disputes/{id}',
    summary: 'Change reason, owner, deadline, fault or words of an open dispute',
    ability: 'chase.keep',
    params: z.object({ id }),
    body: z.object({
      version: z.int(),
      reason,
      fault,
      text: line(500),
      owner: person,
      deadline: isoDate,
    }),
    response: disputeRow,
  }),
  resolve: operation({
    method: 'post',
    path: '/api/disputes/{id}/resolve',
    summary: 'Resolve a dispute: credited, settled in part, written off, or upheld',
    ability: 'chase.keep',
    params: z.object({ id }),
    body: z.object({
      version: z.int(),
      resolution,
      amounts: itemAmounts
        .max(200)
        .default([])
        .describe('what is given up; all that is disputed when left out'),
      text: line(500).default(''),
      letter: z.boolean().default(false).describe('upheld: tell the customer by letter'),
    }),
    response: z.object({ dispute: disputeRow, waiting: z.int().nullable() }),
  }),
  proof: operation({
    method: 'post',
    path: '/api/disputes/{id}/proof',
    summary: 'What resolving it so would post',
    ability: 'chase.keep',
    params: z.object({ id }),
    body: z.object({
      version: z.int(),
      resolution,
      amounts: itemAmounts.max(200).default([]),
      text: line(500).default(''),
    }),
    response: proof,
  }),
}

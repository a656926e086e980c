import { z } from 'zod'
import { LEFT_OUT, OUTCOME_CODES, type LeftOut, type Outcome } from '../core/callList'
import { customerRef, id, isoDate, minor } from './common'
import { operation } from './operation'
import { promiseBody } from './promises'
import { disputeBody } from './disputes'

const number = z.string().min(1).max(32)
const line = (most: number) => z.string().trim().max(most)
const outcome = z.enum(OUTCOME_CODES as [Outcome, ...Outcome[]])

const lastCall = z.object({
  on: z.string(),
  outcome,
  label: z.string(),
  by: z.string(),
  text: z.string(),
})
export const callRow = z.object({
  customer: customerRef,
  contact: z.string(),
  phone: z.string(),
  email: z.string(),
  currency: z.string(),
  controller: z.string(),
  overdue: minor.describe('base currency'),
  late: minor.describe('of it what would come late without a contact'),
  chance: z.number().describe('that a contact changes it, percent'),
  worth: minor.describe('what a contact is worth now: late × chance'),
  oldest: z.int(),
  followUp: z.boolean().describe('somebody said they would ring again by today'),
  last: lastCall.nullable(),
  why: z.string(),
})
export type CallListRow = z.infer<typeof callRow>

export const callListAnswer = z.object({
  base: z.string(),
  date: z.string(),
  whose: z
    .array(z.object({ email: z.string(), name: z.string(), away: z.boolean() }))
    .describe('whose lists are shown'),
  people: z
    .array(z.object({ email: z.string(), name: z.string(), accounts: z.int() }))
    .describe('who has a list'),
  items: z.array(callRow),
  totals: z.object({ count: z.int(), overdue: minor, late: minor, worth: minor, followUps: z.int() }),
  leftOut: z.record(
    z.enum(LEFT_OUT as unknown as [LeftOut, ...LeftOut[]]),
    z.object({ count: z.int(), overdue: minor }),
  ),
  done: z.object({ calls: z.int(), reached: z.int(), promised: minor }).describe('today, by whoever asks'),
  next: z.string().nullable(),
})
export type CallListAnswer = z.infer<typeof callListAnswer>

export const callBody = z.object({
  customer: number,
  outcome,
  spokeWith: line(80).default(''),
  text: line(500).default(''),
  nextDate: isoDate.nullable().default(null).describe('when to ring again'),
  promise: promiseBody.omit({ customer: true }).nullable().default(null).describe('what was promised in it'),
  dispute: disputeBody.omit({ customer: true }).nullable().default(null).describe('what was disputed in it'),
})

export const logged = z.object({
  id: z.int(),
  promise: z.int().nullable(),
  dispute: z.int().nullable(),
})

const call = lastCall.extend({
  id: z.int(),
  spokeWith: z.string(),
  nextDate: z.string().nullable(),
  promise: z.int().nullable(),
  dispute: z.int().nullable(),
})
export type Call = z.infer<typeof call>

/** Whom to ring, and what became of it. */
export const callList = {
  list: operation({
    method: 'get',
    path: '/api/call-list',
    summary: 'Accounts by what a contact is worth now, with the reason in words',
    ability: 'read',
    query: z.object({
      of: z
        .union([z.literal('all'), z.string().min(3).max(190)])
        .optional()
        .describe('whose list: an address, or all; one’s own and of those one stands in for when left out'),
      only: z.enum(['followUps']).optional(),
      limit: z.coerce.number().int().min(1).max(200).default(50),
      cursor: z.string().max(400).optional(),
    }),
    response: callListAnswer,
  }),
  log: operation({
    method: 'post',
    path: '/api/call-list/calls',
    summary: 'Log a call, with what was promised or disputed in it, in one go',
    ability: 'chase.keep',
    body: callBody,
    response: logged,
    status: 201,
  }),
  calls: operation({
    method: 'get',
    path: '/api/call-list/calls',
    summary: 'Calls with a customer, the newest first',
    ability: 'read',
    query: z.object({
      customer: number,
      before: id.optional(),
      limit: z.coerce.number().int().min(1).max(200).default(50),
    }),
    response: z.object({ items: z.array(call), next: z.int().nullable() }),
  }),
}

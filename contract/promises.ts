import { z } from 'zod'
import { amount, currency, cursor, customerRef, id, isoDate, limit, minor } from './common'
import { sent } from './letters'
import { operation } from './operation'

const number = z.string().min(1).max(32)
const line = (most: number) => z.string().trim().max(most)

export const PROMISE_STATES = ['open', 'kept', 'partly', 'broken', 'withdrawn'] as const

const part = z.object({
  date: z.string(),
  amount: minor,
  until: z.string().describe('last day on which the money is in time'),
  paid: minor,
  state: z.enum(['due', 'kept', 'partly', 'broken']),
})
export const promise = z.object({
  id: z.int(),
  customer: customerRef,
  currency: z.string(),
  madeOn: z.string(),
  by: z.string(),
  text: z.string(),
  state: z.enum(PROMISE_STATES),
  amount: minor,
  paid: minor,
  parts: z.array(part),
  items: z.array(z.object({ id: z.int(), number: z.string(), amount: minor })).nullable(),
  withdrawn: z.object({ on: z.string(), by: z.string(), reason: z.string() }).nullable(),
})
export type PromiseRow = z.infer<typeof promise>

export const promiseBody = z.object({
  customer: number,
  currency,
  items: z
    .array(z.object({ itemId: id, amount }))
    .min(1, { error: 'choose an item, or promise for the account' })
    .max(500)
    .nullable()
    .default(null)
    .describe('null: for the account as a whole'),
  parts: z
    .array(z.object({ date: isoDate, amount }))
    .min(1, { error: 'say when and how much' })
    .max(60)
    .describe('one date, or the instalments of a plan, by date'),
  text: line(300).default(''),
})

/** What customers promised to pay, and what became of it. */
export const promises = {
  list: operation({
    method: 'get',
    path: '/api/promises',
    summary: 'Promises by state; the next date first',
    ability: 'read',
    query: z.object({
      state: z.enum([...PROMISE_STATES, 'all', 'missed']).default('open'),
      customer: number.optional(),
      limit,
      cursor,
    }),
    response: z.object({ items: z.array(promise), next: z.string().nullable() }),
  }),
  add: operation({
    method: 'post',
    path: '/api/promises',
    summary: 'Keep a promise to pay, or a plan with instalments',
    ability: 'chase.keep',
    body: promiseBody,
    response: promise,
    status: 201,
  }),
  withdraw: operation({
    method: 'post',
    path: '/api/promises/{id}/withdraw',
    summary: 'Take back a promise that was kept by mistake or agreed anew',
    ability: 'chase.keep',
    params: z.object({ id }),
    body: z.object({ reason: line(200).min(1, { error: 'say why' }) }),
    response: promise,
  }),
  letter: operation({
    method: 'get',
    path: '/api/promises/{id}/letter',
    summary: 'The plan as a letter with its dates',
    ability: 'read',
    params: z.object({ id }),
    responseType: 'application/pdf',
  }),
  send: operation({
    method: 'post',
    path: '/api/promises/{id}/send',
    summary: 'Send the plan to the customer',
    ability: 'letters.send',
    params: z.object({ id }),
    body: z.object({}),
    response: sent,
  }),
}

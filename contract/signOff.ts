import { z } from 'zod'
import { SIGNED } from '../core/signOff'
import { id, isoDate, minor } from './common'
import { operation } from './operation'
import { proof } from './receipts'

const line = (most: number) => z.string().trim().max(most)
const change = z.object({ field: z.string(), before: z.string(), after: z.string() })
export const waitingRow = z.object({
  id: z.int(),
  kind: z.string(),
  label: z.string(),
  state: z.enum(['waiting', 'signed', 'declined', 'returned', 'withdrawn']),
  about: z.string(),
  customer: z.object({ number: z.string(), name: z.string() }).nullable(),
  amount: minor.nullable(),
  currency: z.string(),
  changes: z.array(change).describe('as they were seen when it was asked for'),
  by: z.string(),
  at: z.string(),
  date: z.string().describe('business date on which it was asked for'),
  own: z.boolean().describe('asked for by who reads this'),
  decidedBy: z.string().nullable(),
  decidedAt: z.string().nullable(),
  reason: z.string().describe('of declining or sending back'),
  comments: z.int(),
  maySign: z.boolean(),
  whyNot: z.string().describe('why the reader may not sign it'),
})
export type WaitingRow = z.infer<typeof waitingRow>

export const waitingDetail = waitingRow.extend({
  why: z.string().describe('what the asker gave as the reason'),
  now: z.array(change).describe('what it would change if it were signed now'),
  refusals: z
    .array(z.object({ rule: z.string(), message: z.string(), satisfy: z.string() }))
    .describe('why it would be refused now: the books have moved on'),
  proof: proof.nullable().describe('the postings it would make; null when it makes none'),
  said: z.array(z.object({ by: z.string(), at: z.string(), text: z.string() })),
})
export type WaitingDetail = z.infer<typeof waitingDetail>

const deputy = z.object({
  id: z.int(),
  absent: z.string(),
  deputy: z.string(),
  from: z.string(),
  until: z.string(),
})
export type Deputy = z.infer<typeof deputy>
export const thresholds = z.partialRecord(
  z.enum(SIGNED),
  z.record(z.string().length(3), z.int().min(0).max(1_000_000_000_000)),
)

const params = z.object({ id })
const reasoned = z.object({ reason: line(200).min(1, { error: 'say why' }) })
const done = z.object({ id: z.int() })

export const signOff = {
  list: operation({
    method: 'get',
    path: '/api/sign-off',
    summary: 'What waits for a second person, what one asked for, and what was decided',
    ability: 'books.read',
    query: z.object({ state: z.enum(['waiting', 'own', 'decided']).default('waiting') }),
    response: z.object({ items: z.array(waitingRow), waiting: z.int() }),
  }),
  detail: operation({
    method: 'get',
    path: '/api/sign-off/{id}',
    summary: 'One request: what it would do now, and what was said of it',
    ability: 'books.read',
    params,
    response: waitingDetail,
  }),
  sign: operation({
    method: 'post',
    path: '/api/sign-off/{id}/sign',
    summary: 'Sign: decided again against the books of this moment, and done',
    ability: 'books.read',
    params,
    response: done,
  }),
  decline: operation({
    method: 'post',
    path: '/api/sign-off/{id}/decline',
    summary: 'Decline for good',
    ability: 'books.read',
    params,
    body: reasoned,
    response: done,
  }),
  sendBack: operation({
    method: 'post',
    path: '/api/sign-off/{id}/send-back',
    summary: 'Send back to be changed',
    ability: 'books.read',
    params,
    body: reasoned,
    response: done,
  }),
  askAgain: operation({
    method: 'post',
    path: '/api/sign-off/{id}/ask-again',
    summary: 'Ask again for what was sent back; with other values of its fields, or as it was',
    ability: 'books.read',
    params,
    body: z.object({
      set: z.record(z.string().max(40), z.union([z.string().max(200), z.number(), z.null()])).default({}),
    }),
    response: done,
  }),
  withdraw: operation({
    method: 'post',
    path: '/api/sign-off/{id}/withdraw',
    summary: 'Take back what one asked for oneself',
    ability: 'books.read',
    params,
    response: done,
  }),
  comment: operation({
    method: 'post',
    path: '/api/sign-off/{id}/comments',
    summary: 'Say something about a request',
    ability: 'books.read',
    params,
    body: z.object({ text: line(500).min(1, { error: 'write something' }) }),
    response: done,
    status: 201,
  }),
  deputies: operation({
    method: 'get',
    path: '/api/sign-off/deputies',
    summary: 'Who stands in for whom, from today on',
    ability: 'books.read',
    response: z.object({
      items: z.array(deputy),
      people: z.array(z.object({ email: z.string(), name: z.string() })),
    }),
  }),
  addDeputy: operation({
    method: 'post',
    path: '/api/sign-off/deputies',
    summary: 'Let somebody sign in one’s own place for some days',
    ability: 'signOff.sign',
    body: z.object({ deputy: z.email(), from: isoDate, until: isoDate }),
    response: done,
    status: 201,
  }),
  removeDeputy: operation({
    method: 'delete',
    path: '/api/sign-off/deputies/{id}',
    summary: 'End a time in which somebody stands in for oneself',
    ability: 'signOff.sign',
    params,
    status: 204,
  }),
}

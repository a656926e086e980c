import { z } from 'zod'
import { id, isoDate } from './common'
import { operation } from './operation'

const number = z.string().min(1).max(32)
export const STATEMENT_FORMS = ['open-item', 'balance-forward'] as const
const form = z.enum(STATEMENT_FORMS).default('open-item')
const statement = {
  form,
  asOf: isoDate.optional(),
  from: isoDate
    .optional()
    .describe('of a balance carried forward: the last day before it begins; the month before when left out'),
}
export const sent = z.object({
  letter: z.int(),
  message: z.int(),
  recipient: z.string(),
  channel: z.enum(['email', 'print']),
})
export type SentLetter = z.infer<typeof sent>
export const STATEMENT_CYCLES = ['monthly', 'quarterly', 'none', 'all'] as const
const pdf = { responseType: 'application/pdf' } as const

/** Statements of account, copies of documents: seen, sent, and kept as they were sent. */
export const letters = {
  statement: operation({
    method: 'get',
    path: '/api/letters/statements/{number}',
    summary: 'A statement of account, as it would be sent',
    ability: 'read',
    params: z.object({ number }),
    query: z.object(statement),
    ...pdf,
  }),
  sendStatement: operation({
    method: 'post',
    path: '/api/letters/statements/{number}/send',
    summary: 'Send a statement of account now',
    ability: 'letters.send',
    params: z.object({ number }),
    body: z.object(statement),
    response: sent,
  }),
  copy: operation({
    method: 'get',
    path: '/api/letters/copies/{id}',
    summary: 'A copy of a document, as it would be sent',
    ability: 'read',
    params: z.object({ id }),
    ...pdf,
  }),
  sendCopy: operation({
    method: 'post',
    path: '/api/letters/copies/{id}/send',
    summary: 'Send a copy of a document now',
    ability: 'letters.send',
    params: z.object({ id }),
    body: z.object({}),
    response: sent,
  }),
  run: operation({
    method: 'post',
    path: '/api/letters/runs',
    summary: 'Send statements to many customers, as a job; those with nothing open are left out',
    ability: 'reminders.run',
    body: z.object({
      ...statement,
      cycle: z
        .enum(STATEMENT_CYCLES)
        .default('monthly')
        .describe('those who get them so often; all: everybody'),
      class: z.string().max(24).optional(),
    }),
    response: z.object({ job: z.int() }),
    status: 202,
  }),
  runs: operation({
    method: 'get',
    path: '/api/letters/runs',
    summary: 'Runs of statements, the newest first',
    ability: 'books.read',
    response: z.object({
      items: z.array(
        z.object({
          job: z.int(),
          state: z.string(),
          at: z.string(),
          by: z.string(),
          letters: z.int(),
          sent: z.int(),
          waiting: z.int(),
          failed: z.int(),
          print: z.int(),
        }),
      ),
    }),
  }),
  print: operation({
    method: 'get',
    path: '/api/letters/runs/{id}/print',
    summary: 'The letters of a run that go by post, as one file for the printer',
    ability: 'books.read',
    params: z.object({ id }),
    ...pdf,
  }),
  asSent: operation({
    method: 'get',
    path: '/api/letters/{id}',
    summary: 'A letter as it was sent',
    ability: 'read',
    params: z.object({ id }),
    ...pdf,
  }),
}

import { z } from 'zod'
import { cursor, id, limit } from './common'
import { operation } from './operation'

const params = z.object({ id })
const message = z.object({
  id: z.int(),
  customer: z.object({ number: z.string(), name: z.string() }),
  recipient: z.string(),
  subject: z.string(),
  state: z.enum(['queued', 'waiting', 'sent', 'failed', 'print', 'stopped']),
  tries: z.int(),
  reply: z.string(),
  at: z.string(),
  sentAt: z.string().nullable(),
  nextTry: z.string().nullable().describe('when a waiting one is tried again, UTC'),
  noticeId: z.int().nullable(),
  letterId: z.int().nullable(),
})
export type Message = z.infer<typeof message>
export const outbox = {
  list: operation({
    method: 'get',
    path: '/api/outbox',
    summary: 'Messages sent, waiting and failed',
    ability: 'books.read',
    query: z.object({
      state: z.enum(['all', 'queued', 'waiting', 'sent', 'failed', 'print', 'stopped']).default('all'),
      limit,
      cursor,
    }),
    response: z.object({
      items: z.array(message),
      counts: z.record(z.string(), z.int()),
      next: z.string().nullable(),
    }),
  }),
  delivered: operation({
    method: 'get',
    path: '/api/outbox/{id}',
    summary: 'A message and, once sent, what the mailbox received',
    ability: 'books.read',
    params,
    response: message.extend({
      text: z.string(),
      received: z
        .object({
          from: z.string(),
          to: z.string(),
          subject: z.string(),
          text: z.string(),
          attachments: z.array(z.object({ name: z.string(), type: z.string(), bytes: z.int() })),
        })
        .nullable(),
    }),
  }),
  again: operation({
    method: 'post',
    path: '/api/outbox/{id}/send',
    summary: 'Send now: one that failed, or one that waits for the mail server',
    ability: 'reminders.run',
    params,
    response: message,
  }),
}

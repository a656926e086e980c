import { z } from 'zod'
import { currency, cursor, id, isoDate, limit, minor } from './common'
import { operation } from './operation'

const byCurrency = z.record(currency, z.int().min(0).max(1_000_000_00))
const text = z.object({
  subject: z.string().trim().min(1).max(160),
  body: z.string().trim().min(1).max(6000),
})
export const level = z.object({
  days: z
    .int()
    .min(1, { error: 'at least 1 day late' })
    .max(999)
    .describe('days late from which the level is due'),
  sincePrevious: z.int().min(0).max(365).describe('days since the notice before'),
  minimum: byCurrency.describe('least overdue amount, minor units by currency'),
  fee: byCurrency.describe('fixed fee, minor units by currency'),
  deadlineDays: z.int().min(1).max(90),
  texts: z
    .record(z.string().length(2), text)
    .refine(t => 'en' in t, { error: 'an English text is needed, it serves languages without one' }),
})
export const policy = z.object({
  code: z.string().min(1).max(24),
  name: z.string().trim().min(1).max(80),
  levels: z.array(level).min(1).max(6),
  version: z.int(),
})
export type PolicyForm = z.infer<typeof policy>

export const proposedNotice = z.object({
  key: z.string(),
  customer: z.object({ number: z.string(), name: z.string() }),
  currency: z.string(),
  level: z.int(),
  total: minor,
  fee: minor,
  deadline: z.string(),
  channel: z.enum(['email', 'print']),
  recipient: z.string(),
  why: z.string(),
  items: z.array(
    z.object({
      id: z.int(),
      number: z.string(),
      part: z.int(),
      dueDate: z.string(),
      daysLate: z.int(),
      open: minor,
      level: z.int(),
    }),
  ),
  included: z.boolean(),
})
export type ProposedNotice = z.infer<typeof proposedNotice>
export const leftOut = z.object({
  customer: z.object({ number: z.string(), name: z.string() }),
  item: z.string().nullable(),
  currency: z.string(),
  open: minor,
  rule: z.string(),
  reason: z.string(),
})
export const run = z.object({
  id: z.int(),
  asOf: z.string(),
  policy: z.string(),
  state: z.enum(['proposed', 'confirmed', 'discarded']),
  version: z.int(),
  by: z.string(),
  at: z.string(),
  confirmedBy: z.string().nullable(),
  notices: z.array(proposedNotice),
  leftOut: z.array(leftOut),
  totals: z.object({ notices: z.int(), base: z.string(), overdue: minor, fees: minor, leftOut: minor }),
  sent: z.array(z.object({ id: z.int(), number: z.string(), customer: z.string(), key: z.string() })),
})
export type Run = z.infer<typeof run>
const runRow = z.object({
  id: z.int(),
  asOf: z.string(),
  policy: z.string(),
  state: z.string(),
  notices: z.int(),
  at: z.string(),
  by: z.string(),
})
const params = z.object({ id })

export const reminders = {
  policies: operation({
    method: 'get',
    path: '/api/reminders/policies',
    summary: 'Reminder policies',
    ability: 'read',
    response: z.object({ items: z.array(policy) }),
  }),
  changePolicy: operation({
    method: 'put',
    path: '/api/reminders/policies/{code}',
    summary: 'Change a policy',
    ability: 'policy.edit',
    params: z.object({ code: z.string().max(24) }),
    body: policy,
    response: policy,
  }),
  runs: operation({
    method: 'get',
    path: '/api/reminders/runs',
    summary: 'Reminder runs, newest first',
    ability: 'books.read',
    query: z.object({ limit, cursor }),
    response: z.object({ items: z.array(runRow), next: z.string().nullable() }),
  }),
  propose: operation({
    method: 'post',
    path: '/api/reminders/runs',
    summary: 'Propose a run: what would be sent, and why the rest is left out',
    ability: 'reminders.run',
    body: z.object({
      asOf: isoDate,
      policy: z.string().max(24).default('standard'),
      customer: z.string().max(32).optional(),
    }),
    response: run,
    status: 201,
  }),
  run: operation({
    method: 'get',
    path: '/api/reminders/runs/{id}',
    summary: 'One run',
    ability: 'books.read',
    params,
    response: run,
  }),
  confirm: operation({
    method: 'post',
    path: '/api/reminders/runs/{id}/confirm',
    summary: 'Confirm a run: letters, e-mails, fees. Twice does it once',
    ability: 'reminders.run',
    params,
    body: z.object({ version: z.int(), exclude: z.array(z.string().max(60)).max(100_000).default([]) }),
    response: run,
  }),
  discard: operation({
    method: 'post',
    path: '/api/reminders/runs/{id}/discard',
    summary: 'Discard a proposal',
    ability: 'reminders.run',
    params,
    response: run,
  }),
  preview: operation({
    method: 'get',
    path: '/api/reminders/runs/{id}/letter',
    summary: 'The letter of a proposed notice, as PDF',
    ability: 'reminders.run',
    params,
    query: z.object({ key: z.string().max(60) }),
    responseType: 'application/pdf',
  }),
  letter: operation({
    method: 'get',
    path: '/api/reminders/notices/{id}/letter',
    summary: 'The letter of a notice, as PDF',
    ability: 'read',
    params,
    responseType: 'application/pdf',
  }),
  pause: operation({
    method: 'post',
    path: '/api/reminders/pauses',
    summary: 'Pause reminders of a customer or an item',
    ability: 'reminders.run',
    body: z.object({
      customer: z.string().max(32),
      itemId: id.optional(),
      reason: z.string().trim().min(1, { error: 'say why' }).max(200),
      until: isoDate,
    }),
    response: z.object({ id: z.int() }),
    status: 201,
  }),
  endPause: operation({
    method: 'delete',
    path: '/api/reminders/pauses/{id}',
    summary: 'End a pause',
    ability: 'reminders.run',
    params,
    status: 204,
  }),
}

const message = z.object({
  id: z.int(),
  customer: z.object({ number: z.string(), name: z.string() }),
  recipient: z.string(),
  subject: z.string(),
  state: z.enum(['queued', 'waiting', 'sent', 'failed', 'print']),
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
      state: z.enum(['all', 'queued', 'waiting', 'sent', 'failed', 'print']).default('all'),
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

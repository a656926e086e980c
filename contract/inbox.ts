import { z } from 'zod'
import { MAIL_KINDS, type MailKind } from '../core/inbox'
import { amount, cursor, customerRef, id, isoDate, limit, minor } from './common'
import { operation } from './operation'

const kind = z.enum(Object.keys(MAIL_KINDS) as [MailKind, ...MailKind[]])
const FOUND_BY = ['reply', 'address', 'number', 'domain', 'hand', ''] as const

export const mailRow = z.object({
  id: z.int(),
  date: z.string(),
  sender: z.string(),
  subject: z.string(),
  kind,
  customer: customerRef.nullable(),
  foundBy: z.enum(FOUND_BY).describe('how we know whose it is; empty: we do not'),
  state: z.enum(['new', 'done']),
  doneAs: z.string(),
  doneBy: z.string(),
})
export type MailRow = z.infer<typeof mailRow>
export const mailDetail = mailRow.extend({
  text: z.string().describe('plain text, whatever it was sent as'),
  answersTo: z.object({ message: z.int(), subject: z.string() }).nullable(),
  found: z.object({
    date: z.string().nullable(),
    amount: minor.nullable(),
    address: z.string().nullable(),
    reason: z.string().nullable(),
    items: z
      .array(z.object({ id: z.int(), number: z.string(), currency: z.string(), open: minor }))
      .describe('documents of the customer that the text names'),
  }),
})
export type MailDetail = z.infer<typeof mailDetail>

export const mailPage = z.object({
  items: z.array(mailRow),
  waiting: z.int(),
  next: z.string().nullable(),
  unreachable: z
    .object({ says: z.string(), since: z.string() })
    .nullable()
    .describe('why no mail comes in, when the mailbox does not answer'),
})
export type MailPage = z.infer<typeof mailPage>

const itemAmounts = z.array(z.object({ itemId: id, amount })).max(200)
export const mailAction = z.discriminatedUnion('do', [
  z.object({
    do: z.literal('promise'),
    currency: z.string().length(3),
    items: itemAmounts.min(1).nullable(),
    date: isoDate,
    amount,
  }),
  z.object({ do: z.literal('dispute'), reason: z.string().max(16), items: itemAmounts.min(1) }),
  z.object({ do: z.literal('copies'), itemIds: z.array(id).min(1, { error: 'choose a document' }).max(20) }),
  z.object({ do: z.literal('statement') }),
  z.object({ do: z.literal('address'), email: z.email({ error: 'write an e-mail address' }) }),
  z.object({ do: z.literal('read') }),
])

/** Mail that came back, beside the account it belongs to, with the action that it asks for. */
export const inbox = {
  list: operation({
    method: 'get',
    path: '/api/inbox',
    summary: 'Mail of customers, the newest first',
    ability: 'read',
    query: z.object({ state: z.enum(['new', 'done', 'all']).default('new'), limit, cursor }),
    response: mailPage,
  }),
  mail: operation({
    method: 'get',
    path: '/api/inbox/{id}',
    summary: 'A mail with the values read from it',
    ability: 'read',
    params: z.object({ id }),
    response: mailDetail,
  }),
  assign: operation({
    method: 'put',
    path: '/api/inbox/{id}/customer',
    summary: 'Say whose mail it is',
    ability: 'chase.keep',
    params: z.object({ id }),
    body: z.object({ customer: z.string().min(1).max(32) }),
    response: mailDetail,
  }),
  act: operation({
    method: 'post',
    path: '/api/inbox/{id}/act',
    summary: 'Do what it asks for, with the values as they were confirmed; then it is done',
    ability: 'chase.keep',
    params: z.object({ id }),
    body: z.object({ action: mailAction }),
    response: mailDetail,
  }),
}

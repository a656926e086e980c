import { z } from 'zod'
import { customerRef, id, isoDate, limit } from './common'
import { operation } from './operation'

const number = z.string().min(1).max(32)
const text = z.string().trim().min(1, { error: 'write something' }).max(1000)
const person = z.object({ email: z.string(), name: z.string() })
export const MESSAGE_ABOUT = ['account', 'item', 'receipt', 'order'] as const

const word = z.object({
  id: z.int(),
  from: person,
  at: z.string(),
  date: z.string(),
  text: z.string(),
})
export const message = word.extend({
  customer: customerRef,
  about: z.enum(MESSAGE_ABOUT),
  link: z.object({ label: z.string(), to: z.string() }),
  to: person,
  mine: z.boolean().describe('it waits for whoever asks'),
  unread: z.boolean(),
  due: z.string().nullable(),
  done: z.object({ by: z.string(), at: z.string() }).nullable(),
  answers: z.array(word),
})
export type Message = z.infer<typeof message>

/** Words to colleagues about an account, and tasks; the answers stand on the account. */
export const messages = {
  list: operation({
    method: 'get',
    path: '/api/messages',
    summary: 'Messages to whoever asks, by them, or of an account, the newest first',
    ability: 'read',
    query: z.object({
      box: z.enum(['mine', 'tasks', 'sent', 'all']).default('mine'),
      customer: number.optional(),
      limit,
      before: id.optional(),
    }),
    response: z.object({ items: z.array(message), next: z.int().nullable() }),
  }),
  unread: operation({
    method: 'get',
    path: '/api/messages/unread',
    summary: 'How many messages were not read, and tasks not done, of whoever asks',
    ability: 'read',
    response: z.object({ messages: z.int(), tasks: z.int(), mail: z.int() }),
  }),
  people: operation({
    method: 'get',
    path: '/api/messages/people',
    summary: 'Colleagues one can write to',
    ability: 'read',
    response: z.object({ items: z.array(person.extend({ role: z.string() })) }),
  }),
  write: operation({
    method: 'post',
    path: '/api/messages',
    summary: 'Write to a colleague about an account, an item, a receipt or an order; with a day it is a task',
    ability: 'messages.write',
    body: z.object({
      customer: number,
      to: z.string().trim().min(3).max(190),
      text,
      about: z.enum(MESSAGE_ABOUT).default('account'),
      aboutId: id.nullable().default(null),
      due: isoDate.nullable().default(null),
    }),
    response: z.object({ id: z.int() }),
    status: 201,
  }),
  answer: operation({
    method: 'post',
    path: '/api/messages/{id}/answers',
    summary: 'Answer a message; it goes to the other of the two',
    ability: 'messages.write',
    params: z.object({ id }),
    body: z.object({ text }),
    response: z.object({ id: z.int() }),
    status: 201,
  }),
  read: operation({
    method: 'post',
    path: '/api/messages/{id}/read',
    summary: 'A message with its answers was read',
    ability: 'read',
    params: z.object({ id }),
    body: z.object({}),
    response: z.object({ read: z.int() }),
  }),
  done: operation({
    method: 'post',
    path: '/api/messages/{id}/done',
    summary: 'A task is done, or not after all',
    ability: 'messages.write',
    params: z.object({ id }),
    body: z.object({ done: z.boolean() }),
    response: z.object({ done: z.boolean() }),
  }),
  handOver: operation({
    method: 'post',
    path: '/api/messages/hand-over',
    summary:
      'All that waits for somebody who leaves goes to somebody else: messages, tasks, disputes, accounts',
    ability: 'people.edit',
    body: z.object({ from: z.string().min(3).max(190), to: z.string().min(3).max(190) }),
    response: z.object({ messages: z.int(), disputes: z.int(), accounts: z.int() }),
  }),
}

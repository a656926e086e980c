import { z } from 'zod'
import { ROLES } from '../core/people'
import { id } from './common'
import { operation } from './operation'

export const session = z.object({
  person: z.object({ name: z.string(), email: z.string(), role: z.enum(ROLES) }),
  abilities: z.array(z.string()),
  mustChange: z
    .boolean()
    .describe('the password was given by somebody else: nothing else is answered before it is changed'),
})
export type Session = z.infer<typeof session>
const person = z.object({
  id: z.int(),
  name: z.string(),
  email: z.string(),
  role: z.enum(ROLES),
  active: z.boolean(),
  mustChange: z.boolean().describe('has not chosen a password yet'),
})
const openSession = z.object({
  id: z.int(),
  network: z.string(),
  agent: z.string().describe('what the browser calls itself'),
  at: z.string().describe('signed in'),
  usedAt: z.string().describe('last request, to the minute'),
  current: z.boolean().describe('the one that asks'),
})
export type OpenSession = z.infer<typeof openSession>
const email = z.email({ error: 'write an e-mail address' }).max(190)
const password = z
  .string()
  .min(10, { error: 'at least 10 characters' })
  .max(72, { error: 'at most 72 characters' })

export const people = {
  signIn: operation({
    method: 'post',
    path: '/api/session',
    summary: 'Sign in; sets the session cookie',
    ability: null,
    body: z.object({
      email: z.string().min(1, { error: 'write your e-mail address' }).max(190),
      password: z.string().min(1, { error: 'write your password' }).max(200),
    }),
    response: session,
  }),
  session: operation({
    method: 'get',
    path: '/api/session',
    summary: 'Who is signed in',
    ability: null,
    response: session,
  }),
  demo: operation({
    method: 'get',
    path: '/api/session/demo',
    summary: 'The people of the demo, while it is loaded: nobody otherwise',
    ability: null,
    response: z.object({
      password: z.string().nullable(),
      items: z.array(
        z.object({ name: z.string(), email: z.string(), role: z.enum(ROLES), does: z.string() }),
      ),
    }),
  }),
  signOut: operation({
    method: 'delete',
    path: '/api/session',
    summary: 'Sign out',
    ability: null,
    status: 204,
  }),
  list: operation({
    method: 'get',
    path: '/api/people',
    summary: 'People and their roles',
    ability: 'people.edit',
    response: z.object({ items: z.array(person) }),
  }),
  add: operation({
    method: 'post',
    path: '/api/people',
    summary: 'Add a person',
    ability: 'people.edit',
    body: z.object({ name: z.string().trim().min(1).max(120), email, role: z.enum(ROLES), password }),
    response: person,
    status: 201,
  }),
  change: operation({
    method: 'put',
    path: '/api/people/{id}',
    summary: 'Change role, password or access of a person',
    ability: 'people.edit',
    params: z.object({ id }),
    body: z.object({
      role: z.enum(ROLES).optional(),
      active: z.boolean().optional(),
      password: password.optional(),
    }),
    response: person,
  }),
  changePassword: operation({
    method: 'put',
    path: '/api/session/password',
    summary: 'Change your own password',
    ability: 'read',
    body: z.object({ current: z.string().min(1).max(200), password }),
    status: 204,
    evenFirst: true,
  }),
  sessions: operation({
    method: 'get',
    path: '/api/session/all',
    summary: 'Where you are signed in',
    ability: 'read',
    response: z.object({ items: z.array(openSession) }),
  }),
  endSession: operation({
    method: 'delete',
    path: '/api/session/all/{id}',
    summary: 'Sign out on another machine',
    ability: 'read',
    params: z.object({ id }),
    status: 204,
  }),
  signOutPerson: operation({
    method: 'delete',
    path: '/api/people/{id}/sessions',
    summary: 'End every session of a person',
    ability: 'people.edit',
    params: z.object({ id }),
    status: 204,
  }),
}

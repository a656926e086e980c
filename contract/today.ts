import { z } from 'zod'
import { minor } from './common'
import { operation } from './operation'

const todo = z.object({
  kind: z.string(),
  label: z.string(),
  why: z.string(),
  count: z.int(),
  amount: minor.nullable(),
  to: z.string(),
})
const newly = z.object({
  id: z.int(),
  number: z.string(),
  customer: z.object({ number: z.string(), name: z.string() }),
  dueDate: z.string(),
  daysLate: z.int(),
  open: minor,
})
export const todayAnswer = z.object({
  today: z.string(),
  base: z.string(),
  company: z.string(),
  buckets: z.array(z.object({ label: z.string() })),
  amounts: z.array(minor),
  onAccount: minor,
  open: minor,
  overdue: minor,
  target: minor,
  monthEnd: z.object({ date: z.string(), overdue: minor, open: minor }),
  newlyOverdue: z.object({ since: z.string(), count: z.int(), total: minor, items: z.array(newly) }),
  receivedThisMonth: minor,
  since: z.string().describe('the last working day before this one'),
  moved: z.array(todo).describe('what happened since, in the order that matters to the role'),
  todo: z.array(todo).describe('what waits, in the order that matters to the role'),
})
export type TodayAnswer = z.infer<typeof todayAnswer>
export const history = z.object({
  base: z.string(),
  target: minor,
  buckets: z.array(z.object({ label: z.string() })),
  points: z.array(z.object({ date: z.string(), amounts: z.array(minor), overdue: minor })),
})
export type History = z.infer<typeof history>

export const jumpHit = z.object({
  kind: z.enum(['customer', 'document', 'receipt', 'screen']),
  title: z.string(),
  detail: z.string(),
  to: z.string(),
})
export type JumpHit = z.infer<typeof jumpHit>

export const today = {
  today: operation({
    method: 'get',
    path: '/api/today',
    summary: 'The first screen of the day',
    ability: 'read',
    response: todayAnswer,
  }),
  history: operation({
    method: 'get',
    path: '/api/today/history',
    summary: 'Balance by age at the last twelve month ends',
    ability: 'read',
    response: history,
  }),
  jump: operation({
    method: 'get',
    path: '/api/jump',
    summary: 'Find a customer, document or receipt by name, number, amount, IBAN or cheque number',
    ability: 'read',
    query: z.object({ q: z.string().trim().min(1).max(80) }),
    response: z.object({ items: z.array(jumpHit) }),
  }),
  openapi: operation({
    method: 'get',
    path: '/api/openapi.json',
    summary: 'This document',
    ability: null,
    response: z.looseObject({}),
  }),
}

import { z } from 'zod'
import { LEFT_OUT_RULES, type LeftOutRule } from '../../core/reminders'
import { customerRef, minor } from '../common'
import { country } from './policy'

const consequence = z.object({ hold: z.boolean(), tellSales: z.boolean(), handOver: z.boolean() })
const interestLine = z.object({
  itemId: z.int(),
  number: z.string(),
  from: z.string(),
  to: z.string(),
  days: z.int(),
  rate: z.string(),
  base: minor,
  amount: minor,
})
export const proposedNotice = z.object({
  key: z.string(),
  customer: customerRef,
  currency: z.string(),
  policy: z.string().default(''),
  level: z.int(),
  total: minor,
  fee: minor,
  feeTax: minor.default(0),
  interest: minor.default(0),
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
      before: z.int().default(0),
    }),
  ),
  interestLines: z.array(interestLine).default([]),
  consequence: consequence.default({ hold: false, tellSales: false, handOver: false }),
  warnings: z.array(z.string()).default([]),
  changed: z.array(z.string()).default([]),
})
/** What a person changed of a proposed notice. */
export const edit = z.object({
  leaveOut: z.string().trim().min(1, { error: 'say why' }).max(200).optional(),
  items: z.record(z.string().regex(/^\d+$/), z.string().trim().min(1).max(200)).optional(),
  oneLower: z.literal(true).optional(),
  noFee: z.literal(true).optional(),
  noInterest: z.literal(true).optional(),
  recipient: z.union([z.email({ error: 'write an e-mail address' }), z.literal('')]).optional(),
})

/** A proposed notice in its run: whether it goes, and what became of it. */
export const runNotice = proposedNotice.extend({
  included: z.boolean(),
  leftOutFor: z.string().describe('why a person left it out; empty when it goes'),
  edit: edit.describe('what was changed of it so far: a further change is put over it'),
  sent: z
    .object({ id: z.int(), number: z.string(), withdrawnOn: z.string().nullable() })
    .nullable()
    .describe('the notice that went out'),
})
export type RunNotice = z.infer<typeof runNotice>
export const leftOutRule = z.enum(Object.keys(LEFT_OUT_RULES) as [LeftOutRule, ...LeftOutRule[]])
export const leftOut = z.object({
  customer: customerRef,
  item: z.string().nullable(),
  currency: z.string(),
  open: minor,
  rule: leftOutRule,
  reason: z.string(),
})
export type LeftOutLine = z.infer<typeof leftOut>

export const runScope = z.object({
  customer: z.string().max(32).optional().describe('only this one'),
  class: z.string().max(24).optional(),
  controller: z.string().max(190).optional().describe('address of who looks after them'),
  country: country.optional(),
})
export type RunScope = z.infer<typeof runScope>
export const runKind = z.enum(['reminder', 'interest'])
const state = z.enum(['preparing', 'proposed', 'confirmed', 'withdrawn', 'discarded'])
const sums = z.object({
  currency: z.string(),
  notices: z.int(),
  overdue: minor,
  fee: minor,
  interest: minor,
})
export const run = z.object({
  id: z.int(),
  kind: runKind,
  asOf: z.string(),
  policy: z.string().describe('empty: each customer by its own'),
  scope: runScope,
  state,
  version: z.int(),
  by: z.string(),
  at: z.string(),
  confirmedBy: z.string().nullable(),
  job: z.int().nullable().describe('at work on it, while it is being worked out or confirmed'),
  totals: z.object({
    base: z.string(),
    notices: z.int(),
    all: z.int().describe('with those that people left out'),
    emails: z.int(),
    letters: z.int(),
    overdue: minor,
    fees: minor,
    interest: minor,
    leftOut: minor,
    leftOutLines: z.int(),
    withdrawn: z.int(),
    byCurrency: z.array(sums),
    byLevel: z.array(z.object({ level: z.int(), notices: z.int() })),
    warnings: z.int(),
  }),
})
export type Run = z.infer<typeof run>
export const runRow = z.object({
  id: z.int(),
  kind: runKind,
  asOf: z.string(),
  policy: z.string(),
  state,
  notices: z.int(),
  prepared: z.string().describe('empty: by a person; else by the schedule'),
  at: z.string(),
  by: z.string(),
})
export type RunRow = z.infer<typeof runRow>
export const noticeKey = z.string().min(1).max(64)

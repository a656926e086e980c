import { z } from 'zod'
import { minor } from '../common'
import { operation } from '../operation'

const line = (most: number) => z.string().trim().max(most)
const code = z
  .string()
  .trim()
  .min(1, { error: 'write a code' })
  .max(24)
  .regex(/^[\p{L}\p{N}][\p{L}\p{N} ._-]*$/u, { error: 'use letters, digits and . _ - only' })

export const classValues = z.object({
  name: line(80).min(1, { error: 'write a name' }),
  terms: line(80),
  method: line(12),
  policy: line(24),
  riskClass: line(8),
  statementCycle: line(12),
  refunds: line(3),
  creditLimit: z
    .int()
    .min(0)
    .max(1_000_000_000_000)
    .nullable()
    .describe('base currency; what its customers have without a limit of their own'),
  keepOnItem: z.boolean().describe('an overpayment may be kept for one item'),
})
export type ClassValues = z.infer<typeof classValues>

export const classRow = classValues.extend({
  code: z.string(),
  version: z.int(),
  customers: z.int(),
  /** The same as in the values: signed apart. */
  creditLimit: minor.nullable(),
  waiting: z.int().nullable().describe('of Sign-off, when a limit waits for a second person'),
})
export type ClassRow = z.infer<typeof classRow>

const list = z.object({ items: z.array(classRow), waiting: z.int().nullable() })

export const classOperations = {
  classes: operation({
    method: 'get',
    path: '/api/classes',
    summary: 'Customer classes: what their customers inherit',
    ability: 'read',
    response: list,
  }),
  createClass: operation({
    method: 'post',
    path: '/api/classes',
    summary: 'Add a customer class',
    ability: 'policy.edit',
    body: classValues.omit({ creditLimit: true }).extend({ code }),
    response: list,
    status: 201,
  }),
  changeClass: operation({
    method: 'put',
    path: '/api/classes/{code}',
    summary: 'Change a customer class; a limit that rises waits for a second person',
    ability: 'policy.edit',
    params: z.object({ code: z.string().min(1).max(24) }),
    body: classValues.extend({ version: z.int() }),
    response: list,
  }),
}

import { z } from 'zod'
import { isIsoDate } from '../core/calendar'
import { isCurrency, MAX_AMOUNT } from '../core/money'

export const isoDate = z
  .string()
  .refine(isIsoDate, { error: 'write the date as YYYY-MM-DD, a day that exists' })
  .meta({ format: 'date', example: '2026-11-16' })
export const currency = z
  .string()
  .refine(isCurrency, { error: 'use an ISO 4217 currency code such as EUR' })
  .meta({ example: 'EUR' })
/** Minor units, more than zero. */
export const amount = z
  .int({ error: 'write a whole number of minor units' })
  .min(1, { error: 'the amount must be more than zero' })
  .max(MAX_AMOUNT, { error: 'the amount is too large' })
export const id = z.coerce
  .number({ error: 'write a whole number' })
  .int({ error: 'write a whole number' })
  .min(1)
  .max(Number.MAX_SAFE_INTEGER)
export const limit = z.coerce.number({ error: 'write a whole number' }).int().min(1).max(500).default(100)
export const cursor = z.string().max(400).optional()
export const search = z.string().max(100).optional()
/** Signed minor units. */
export const minor = z.int()
export const flag = z
  .enum(['0', '1', 'true', 'false'])
  .transform(v => v === '1' || v === 'true')
  .optional()

export const money = z.object({ amount: minor, currency: z.string() }).meta({ id: 'Money' })
export const customerRef = z.object({ number: z.string(), name: z.string() })
export const fault = z.object({
  path: z.string(),
  message: z.string(),
  rule: z.string().optional(),
  satisfy: z.string().optional(),
  line: z.int().optional(),
  column: z.string().optional(),
})
/** What a table is taken away as: text, or a workbook. */
export const TABLE_TYPES = [
  'text/csv',
  'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
] as const

/** RFC 9457. */
export const problem = z
  .object({
    type: z.string(),
    title: z.string(),
    status: z.int(),
    detail: z.string(),
    errors: z.array(fault).optional(),
  })
  .meta({ id: 'Problem' })
export type Problem = z.infer<typeof problem>
export type Fault = z.infer<typeof fault>

export const page = <T extends z.ZodType>(item: T) =>
  z.object({ items: z.array(item), next: z.string().nullable() })

/** As it was known: by the number of the last entry that counts, or an instant. */
export const known = z
  .string()
  .regex(/^(\d{1,15}|\d{4}-\d\d-\d\dT\d\d:\d\d(:\d\d(\.\d{1,3})?)?Z?)$/, {
    error: 'use an entry number, or an instant in UTC such as 2026-10-31T22:00:00Z',
  })
  .optional()
  .describe('as known when this entry was the last, or at this instant; left out: as we know it now')
export const knownState = z
  .object({ entry: z.int(), at: z.string(), asked: z.boolean() })
  .describe('the last entry that counts: name it to see the same again')

/** A file as the body of a request. */
export const bytes = {
  bodyType: 'application/octet-stream',
  body: z.custom<Uint8Array | Blob>().meta({ type: 'string', format: 'binary' }),
}

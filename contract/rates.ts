import { z } from 'zod'
import { isRate } from '../core/rates'
import { currency, cursor, isoDate, limit } from './common'
import { operation } from './operation'

export const rateForm = z.object({
  currency,
  date: isoDate.describe('the first day it is in force'),
  rate: z
    .string()
    .trim()
    .refine(isRate, { error: 'a rate is more than zero, with a decimal point, such as 1.1525' })
    .describe('base units for one unit of the currency'),
})
export type RateForm = z.infer<typeof rateForm>
export const rateRow = z.object({
  currency: z.string(),
  date: z.string(),
  rate: z.string(),
  source: z.enum(['entered', 'imported', 'simulated']),
  by: z.string().nullable(),
  at: z.string(),
})
export type RateRow = z.infer<typeof rateRow>

export const rates = {
  list: operation({
    method: 'get',
    path: '/api/rates',
    summary: 'Exchange rates, newest first: base units for one unit',
    ability: 'read',
    query: z.object({ currency: currency.optional(), limit, cursor }),
    response: z.object({ base: z.string(), items: z.array(rateRow), next: z.string().nullable() }),
  }),
  enter: operation({
    method: 'put',
    path: '/api/rates',
    summary: 'Enter a rate; one that is there for its day is replaced, what was posted stays',
    ability: 'policy.edit',
    body: rateForm,
    response: rateForm,
  }),
  import: operation({
    method: 'post',
    path: '/api/rates/import',
    summary: 'Import rates from CSV: date, currency, rate',
    ability: 'policy.edit',
    bodyType: 'text/csv',
    body: z.string(),
    response: z.object({ imported: z.int() }),
  }),
}

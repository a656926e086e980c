import { z } from 'zod'
import { MEASURE_NAMES, PARTS, type Measure, type Part } from '../core/measures'
import { customerRef, isoDate, minor, TABLE_TYPES } from './common'
import { operation } from './operation'

const measure = z.enum(MEASURE_NAMES as [Measure, ...Measure[]])
const part = z.enum(Object.keys(PARTS) as [Part, ...Part[]])
export const MEASURE_GROUPINGS = ['controller', 'class', 'country'] as const

const filters = {
  months: z.coerce.number().int().min(1).max(12).default(3).describe('length of the period, in months'),
  class: z.string().max(24).optional(),
  controller: z.string().max(190).optional(),
  country: z.string().length(2).optional(),
}
export const measuresQuery = z.object({
  ...filters,
  asOf: isoDate.optional().describe('the last day that is measured; today when left out'),
  points: z.coerce.number().int().min(1).max(36).default(13).describe('so many month ends before it'),
  by: z.enum(MEASURE_GROUPINGS).optional().describe('of each of these too, beside all together'),
})
export const partQuery = z.object({
  ...filters,
  part,
  date: isoDate.describe('the day that was measured'),
  limit: z.coerce.number().int().min(1).max(500).default(100),
})

const figures = z.partialRecord(measure, z.number().nullable())
const ingredients = z.object({
  receivables: minor,
  current: minor,
  overdue: minor,
  over90: minor,
  onAccount: minor,
  unallocated: minor,
  disputed: minor,
  opening: minor,
  sales: minor,
  days: z.int(),
  paid: minor,
  promised: minor,
  promiseKept: minor,
  months: z
    .array(z.object({ sales: minor, days: z.int() }))
    .describe('sales by month, the newest first, as far as the count-back goes'),
})
const point = z.object({
  date: z.string(),
  from: z.string().describe('the period begins on the day after'),
  figures,
  parts: ingredients,
})
export const measuresAnswer = z.object({
  asOf: z.string(),
  base: z.string(),
  months: z.int(),
  points: z.array(point).describe('month ends, then the last day; of all together'),
  groups: z.array(z.object({ key: z.string(), name: z.string(), points: z.array(point) })),
  targets: z.partialRecord(measure, z.number()),
})
export type MeasuresAnswer = z.infer<typeof measuresAnswer>
export type MeasuredPoint = MeasuresAnswer['points'][number]

export const partAnswer = z.object({
  base: z.string(),
  date: z.string(),
  from: z.string(),
  count: z.int(),
  total: minor,
  items: z.array(
    z.object({
      id: z.int(),
      number: z.string(),
      kind: z.string(),
      customer: customerRef,
      date: z.string(),
      daysLate: z.int(),
      amount: minor,
    }),
  ),
})
export type PartAnswer = z.infer<typeof partAnswer>

export const measures = {
  list: operation({
    method: 'get',
    path: '/api/measures',
    summary: 'Measures of collection at month ends and today, with what they are made of',
    ability: 'read',
    query: measuresQuery,
    response: measuresAnswer,
  }),
  items: operation({
    method: 'get',
    path: '/api/measures/items',
    summary: 'The items that a part of a measure is made of, the largest first',
    ability: 'read',
    query: partQuery,
    response: partAnswer,
  }),
  export: operation({
    method: 'get',
    path: '/api/measures/export',
    summary: 'Measures as CSV or XLSX: a row a day and group',
    ability: 'read',
    query: measuresQuery.extend({ format: z.enum(['csv', 'xlsx']).default('csv') }),
    responseType: TABLE_TYPES,
  }),
}

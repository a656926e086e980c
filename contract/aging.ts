import { z } from 'zod'
import { BRIDGE_PARTS } from '../core/aging'
import {
  currency,
  cursor,
  flag,
  isoDate,
  known,
  knownState,
  limit,
  minor,
  search,
  TABLE_TYPES,
} from './common'
import { operation } from './operation'

export const GROUPINGS = ['customer', 'group', 'class', 'controller', 'sales', 'currency', 'country'] as const

const filters = {
  asOf: isoDate.optional().describe('any date; today when left out'),
  currency: currency
    .optional()
    .describe('only items in this document currency, in its minor units; left out: all, in base currency'),
  known,
  basis: z.enum(['due', 'document']).default('due').describe('the date that items age by'),
  search,
  class: z.string().max(24).optional(),
  controller: z.string().max(190).optional(),
  country: z.string().length(2).optional(),
  ours: flag.describe('1: without what lies with a factor with recourse'),
  buckets: z.string().max(40).optional().describe('a set of buckets by its name; those of the house if not'),
}
export const agingQuery = z.object({
  ...filters,
  by: z.enum(GROUPINGS).default('customer'),
  within: z.enum(GROUPINGS).optional().describe('a second dimension: rows are by both, as class and country'),
  net: flag.describe('1: unallocated credit set off against the oldest buckets'),
  sort: z
    .enum([
      'name',
      '-name',
      'total',
      '-total',
      'onAccount',
      '-onAccount',
      'overdue',
      '-overdue',
      'oldest',
      '-oldest',
      'b0',
      '-b0',
      'b1',
      '-b1',
      'b2',
      '-b2',
      'b3',
      '-b3',
      'b4',
      '-b4',
      'b5',
      '-b5',
    ])
    .default('-total'),
  limit,
  cursor,
})
export type AgingQuery = z.infer<typeof agingQuery>

export const bucket = z.object({ label: z.string(), from: z.int().nullable(), to: z.int().nullable() })
const figures = {
  currency: z.string(),
  amounts: z.array(minor).describe('one per bucket'),
  onAccount: minor.describe('unallocated credit, negative'),
  total: minor,
}
export const agingRow = z.object({
  customer: z
    .object({ number: z.string(), name: z.string() })
    .describe('the customer, or the group that the row stands for'),
  within: z
    .object({ number: z.string(), name: z.string() })
    .nullable()
    .describe('by the second dimension, when there is one'),
  ...figures,
})
export type AgingRow = z.infer<typeof agingRow>
export const agingAnswer = z.object({
  asOf: z.string(),
  known: knownState,
  buckets: z.array(bucket),
  items: z.array(agingRow),
  totals: z.object({ ...figures, count: z.int() }),
  control: z
    .object({
      account: z.string(),
      name: z.string(),
      currency: z.string(),
      balance: minor,
      ledger: minor,
      ties: z.boolean(),
    })
    .nullable()
    .describe('the tie-out of the whole ledger to the control account; null for who sees a part of it'),
  next: z.string().nullable(),
})
export type AgingAnswer = z.infer<typeof agingAnswer>

export const agingItemsQuery = z.object({
  ...filters,
  by: z.enum(GROUPINGS).default('customer'),
  within: z.enum(GROUPINGS).optional(),
  key: z.string().max(160).optional().describe('number of the customer or group; left out: all'),
  withinKey: z.string().max(160).optional().describe('the same by the second dimension'),
  bucket: z.enum(['0', '1', '2', '3', '4', '5', 'onAccount', 'overdue', 'all']).default('all'),
  limit,
  cursor,
})
export type AgingItemsQuery = z.infer<typeof agingItemsQuery>
export const agingItem = z.object({
  id: z.int(),
  number: z.string(),
  part: z.int(),
  kind: z.string(),
  customer: z.object({ number: z.string(), name: z.string() }),
  documentDate: z.string(),
  dueDate: z.string(),
  daysLate: z.int(),
  documentCurrency: z.string(),
  documentOpen: minor,
  open: minor,
})
export const agingItems = z.object({
  asOf: z.string(),
  currency: z.string(),
  items: z.array(agingItem),
  total: minor,
  count: z.int(),
  next: z.string().nullable(),
})
export type AgingItems = z.infer<typeof agingItems>

const compareFilters = {
  from: isoDate.optional().describe('the earlier day; the month end before the later one when left out'),
  to: isoDate.optional().describe('the later one; today when left out'),
  basis: filters.basis,
  buckets: filters.buckets,
  search,
  class: filters.class,
  controller: filters.controller,
  country: filters.country,
}
export const compareQuery = z.object(compareFilters)
const compareRow = z.object({ amounts: z.array(minor), onAccount: minor, total: minor })
export const comparison = z.object({
  from: z.string(),
  to: z.string(),
  currency: z.string(),
  buckets: z.array(bucket),
  opening: compareRow,
  parts: z
    .array(compareRow.extend({ part: z.enum(BRIDGE_PARTS) }))
    .describe('the opening and all parts add up to the closing, column by column'),
  closing: compareRow,
})
export type Comparison = z.infer<typeof comparison>
export const compareItemsQuery = z.object({
  ...compareFilters,
  part: z.enum(BRIDGE_PARTS).default('billed'),
  column: z.enum(['0', '1', '2', '3', '4', '5', 'onAccount', 'all']).default('all'),
  limit,
})
export const compareItemsAnswer = z.object({
  currency: z.string(),
  items: z.array(
    z.object({
      id: z.int(),
      number: z.string(),
      kind: z.string(),
      documentDate: z.string(),
      dueDate: z.string(),
      customer: z.object({ number: z.string(), name: z.string() }),
      amount: minor,
    }),
  ),
  count: z.int(),
  total: minor,
})
export type CompareItems = z.infer<typeof compareItemsAnswer>

export const aging = {
  compare: operation({
    method: 'get',
    path: '/api/aging/compare',
    summary: 'What moved from one day to another: a bridge whose parts add up to the cent',
    ability: 'read',
    query: compareQuery,
    response: comparison,
  }),
  compareItems: operation({
    method: 'get',
    path: '/api/aging/compare/items',
    summary: 'The items that a part of a comparison is made of, the largest first',
    ability: 'read',
    query: compareItemsQuery,
    response: compareItemsAnswer,
  }),
  list: operation({
    method: 'get',
    path: '/api/aging',
    summary: 'Aging of the ledger as of any date',
    ability: 'read',
    query: agingQuery,
    response: agingAnswer,
  }),
  items: operation({
    method: 'get',
    path: '/api/aging/items',
    summary: 'The items that an aging figure is made of',
    ability: 'read',
    query: agingItemsQuery,
    response: agingItems,
  }),
  export: operation({
    method: 'get',
    path: '/api/aging/export',
    summary: 'Aging as CSV or XLSX',
    ability: 'read',
    query: agingQuery
      .omit({ limit: true, cursor: true })
      .extend({ format: z.enum(['csv', 'xlsx']).default('csv') }),
    responseType: TABLE_TYPES,
  }),
}

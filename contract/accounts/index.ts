import { z } from 'zod'
import { cursor, id, isoDate, limit, minor, search, known } from '../common'
import { operation } from '../operation'
import { classOperations } from './classes'
import { masterOperations } from './master'

const params = z.object({ number: z.string().min(1).max(32) })

/** What the list of accounts is sorted by; with `-` before it, the other way. */
export const ACCOUNT_SORTS = [
  'name',
  'number',
  'class',
  'place',
  'contact',
  'currency',
  'controller',
  'open',
  'overdue',
  'oldest',
  'exposure',
  'limit',
  'headroom',
  'hold',
  'level',
  'lateness',
  'score',
  'contacted',
] as const
export type AccountSort = (typeof ACCOUNT_SORTS)[number]
const eitherWay = ACCOUNT_SORTS.flatMap(column => [column, `-${column}` as const])

export const accountsQuery = z.object({
  search,
  class: z.string().max(24).optional(),
  country: z.string().length(2).optional(),
  controller: z.string().max(190).optional(),
  only: z
    .enum(['open', 'overdue', 'over', 'held'])
    .optional()
    .describe('accounts with anything open, overdue, over their limit, held'),
  sort: z.enum(eitherWay as [AccountSort, ...(AccountSort | `-${AccountSort}`)[]]).default('name'),
  limit,
  cursor,
})
export type AccountsQuery = z.infer<typeof accountsQuery>
export const accountRow = z.object({
  number: z.string(),
  name: z.string(),
  currency: z.string(),
  country: z.string(),
  city: z.string(),
  class: z.string(),
  controller: z.string(),
  contact: z.string(),
  phone: z.string(),
  open: minor.describe('base currency, less unallocated credit'),
  overdue: minor.describe('base currency'),
  oldest: z.int().nullable().describe('days late of the oldest open debit'),
  exposure: minor.describe('base currency'),
  limit: minor.nullable().describe('in force today, base currency'),
  headroom: minor.nullable(),
  holds: z.array(z.string()).describe('why it is held'),
  level: z.int().describe('highest reminder level of what is open'),
  lateness: z.int().nullable().describe('days late of what was paid in the last year, weighted by amount'),
  score: z.number().nullable().describe('of the last review, 0 to 100'),
  contacted: z
    .object({ date: z.string(), how: z.enum(['note', 'reminder']) })
    .nullable()
    .describe('the last note or reminder'),
})
export type AccountRow = z.infer<typeof accountRow>

export const itemsQuery = z.object({
  paidOn: isoDate
    .optional()
    .describe('payment date by which discount is judged; the as-of date when left out'),
  state: z.enum(['open', 'all', 'cleared']).default('open'),
  asOf: isoDate.optional(),
  known,
  search,
  sort: z
    .enum(['due', '-due', 'date', '-date', 'number', '-number', 'open', '-open', 'amount', '-amount'])
    .default('due'),
  limit,
  cursor,
})
export type ItemsQuery = z.infer<typeof itemsQuery>

const link = z.object({
  allocationId: z.int(),
  itemId: z.int(),
  number: z.string(),
  kind: z.string(),
  effective: z.string(),
  amount: minor,
  undone: z.boolean(),
  undoes: z.boolean(),
})
export type Link = z.infer<typeof link>
export const accountItem = z.object({
  id: z.int(),
  number: z.string(),
  part: z.int(),
  parts: z.int(),
  kind: z.string(),
  side: z.enum(['debit', 'credit']),
  currency: z.string(),
  documentDate: z.string(),
  dueDate: z.string(),
  daysLate: z.int(),
  amount: minor.describe('signed: credits negative'),
  open: minor.describe('signed, as of the date'),
  baseOpen: minor,
  order: z.string(),
  text: z.string(),
  discount: z
    .object({ amount: minor, until: z.string() })
    .nullable()
    .describe('cash discount still to be had on the as-of date, days of grace included'),
  offered: minor.describe('largest cash discount that was offered, while nothing is paid'),
  level: z.int().describe('reminder level, 0 none'),
  noticeDate: z.string().nullable(),
  paused: z.boolean(),
  reversed: z.boolean(),
  reference: z.string(),
  links: z.array(link),
  dispute: z
    .object({ id: z.int(), reason: z.string(), label: z.string(), note: z.string(), amount: minor })
    .nullable()
    .describe('what the customer disputes of it'),
  promise: z
    .object({ id: z.int(), date: z.string() })
    .nullable()
    .describe('an open promise that speaks of it, and when its next money is due'),
  collection: z
    .object({ id: z.int(), number: z.string(), on: z.string() })
    .nullable()
    .describe('the direct debit that its money is on its way with'),
  rest: z
    .object({ use: z.enum(['item', 'refund']), item: z.string().nullable() })
    .nullable()
    .describe('what money on account is kept for'),
})
export type AccountItem = z.infer<typeof accountItem>
export const accountItems = z.object({
  asOf: z.string(),
  items: z.array(accountItem),
  totals: z.array(z.object({ currency: z.string(), debit: minor, credit: minor, open: minor })),
  count: z.int(),
  next: z.string().nullable(),
})
export type AccountItems = z.infer<typeof accountItems>

export const card = z.object({
  number: z.string(),
  name: z.string(),
  class: z.string(),
  country: z.string(),
  language: z.string(),
  currency: z.string(),
  terms: z.string(),
  termsText: z.string(),
  contact: z.string(),
  email: z.string(),
  phone: z.string(),
  iban: z.string(),
  vatNumber: z.string(),
  parent: z.object({ number: z.string(), name: z.string() }).nullable(),
  members: z.int(),
  policy: z.string(),
  base: z.string(),
  asOf: z.string(),
  buckets: z.array(z.object({ label: z.string() })),
  amounts: z.array(minor),
  onAccount: minor,
  open: minor,
  overdue: minor,
  oldestDaysLate: z.int(),
  byCurrency: z.array(z.object({ currency: z.string(), open: minor, onAccount: minor })),
  limit: minor.nullable(),
  exposure: minor,
  exposureTrouble: z.string().describe('why orders and limit could not be counted; empty when they were'),
  headroom: minor.nullable(),
  holds: z.array(z.object({ label: z.string(), words: z.string() })).describe('why nothing is to be shipped'),
  lastReceipt: z
    .object({ id: z.int(), number: z.string(), date: z.string(), amount: minor, currency: z.string() })
    .nullable(),
  usualDaysLate: z.object({ average: z.number(), count: z.int(), recent: z.number() }).nullable(),
  reminder: z.object({ level: z.int(), date: z.string(), number: z.string(), noticeId: z.int() }).nullable(),
  writtenOff: z.int().describe('write-offs that did not wholly come back'),
  handedOver: z.object({ to: z.string(), on: z.string() }).nullable().describe('with an agency or lawyer'),
  pauses: z.array(
    z.object({ id: z.int(), item: z.string().nullable(), reason: z.string(), until: z.string() }),
  ),
  notes: z
    .array(z.object({ id: z.int(), date: z.string(), by: z.string(), text: z.string(), pinned: z.boolean() }))
    .describe('pinned ones first'),
  promise: z
    .object({ id: z.int(), date: z.string(), amount: minor, currency: z.string() })
    .nullable()
    .describe('the next money that is promised'),
  broken: z
    .object({ id: z.int(), date: z.string(), amount: minor, currency: z.string() })
    .nullable()
    .describe('the last promise that was missed, of the last two months'),
  disputed: z.object({ count: z.int(), amount: minor }).describe('open disputes, base currency'),
  call: z
    .object({ on: z.string(), label: z.string(), by: z.string(), nextDate: z.string().nullable() })
    .nullable()
    .describe('the last call'),
  mail: z.int().describe('answers that wait in the inbox'),
  next: z.array(z.object({ label: z.string(), why: z.string(), to: z.string() })),
})
export type Card = z.infer<typeof card>

/** What stands in the time line of an account. */
export const TIMELINE_KINDS = [
  'receipt',
  'refund',
  'collection',
  'mandate',
  'reminder',
  'call',
  'promise',
  'dispute',
  'letter',
  'message',
  'note',
  'mail',
  'file',
  'hold',
  'change',
] as const
export const timelineEntry = z.object({
  kind: z.enum(TIMELINE_KINDS),
  id: z.int(),
  date: z.string().describe('business date'),
  by: z.string(),
  title: z.string(),
  text: z.string(),
  state: z.string(),
  to: z.string().describe('where its object is opened; empty: it is all there is'),
})
export type TimelineEntry = z.infer<typeof timelineEntry>

const dayOnly = z.object({ asOf: isoDate.optional() })
export const accounts = {
  ...masterOperations,
  ...classOperations,
  list: operation({
    method: 'get',
    path: '/api/accounts',
    summary: 'The list of accounts: what each has open, how old, its exposure, how it pays; sorted by any',
    ability: 'read',
    query: accountsQuery,
    response: z.object({
      items: z.array(accountRow),
      totals: z.object({ count: z.int(), open: minor, overdue: minor, exposure: minor }),
      next: z.string().nullable(),
    }),
  }),
  card: operation({
    method: 'get',
    path: '/api/accounts/{number}',
    summary: 'The Card of one customer',
    ability: 'read',
    params,
    query: dayOnly,
    response: card,
  }),
  items: operation({
    method: 'get',
    path: '/api/accounts/{number}/items',
    summary: 'Items of an account: open, all or cleared as of a date, with what cleared them',
    ability: 'read',
    params,
    query: itemsQuery,
    response: accountItems,
  }),
  pin: operation({
    method: 'put',
    path: '/api/accounts/{number}/notes/{id}',
    summary: 'Pin a note, or let it go',
    ability: 'notes.write',
    params: params.extend({ id }),
    body: z.object({ pinned: z.boolean() }),
    response: z.object({ pinned: z.boolean() }),
  }),
  timeline: operation({
    method: 'get',
    path: '/api/accounts/{number}/timeline',
    summary: 'All that happened on an account in one line of time, the newest first',
    ability: 'read',
    params,
    query: z.object({ kind: z.enum(TIMELINE_KINDS).optional(), search, limit, cursor }),
    response: z.object({ items: z.array(timelineEntry), next: z.string().nullable() }),
  }),
  note: operation({
    method: 'post',
    path: '/api/accounts/{number}/notes',
    summary: 'Write a note',
    ability: 'notes.write',
    params,
    body: z.object({ text: z.string().trim().min(1, { error: 'write something' }).max(2000) }),
    response: z.object({ id: z.int() }),
    status: 201,
  }),
}

import { z } from 'zod'
import {
  EVERY,
  PLANNED_KINDS,
  SOURCE_NAMES,
  type Every,
  type PlannedKind,
  type Source,
} from '../core/forecast'
import { amount, currency, customerRef, id, isoDate, minor, TABLE_TYPES } from './common'
import { operation } from './operation'

const number = z.string().min(1).max(32)
const source = z.enum(SOURCE_NAMES as [Source, ...Source[]])
const sources = z
  .string()
  .max(200)
  .optional()
  .transform(text =>
    text === undefined || text === '' ? [...SOURCE_NAMES] : text.split(',').map(s => s.trim()),
  )
  .pipe(z.array(source))
  .describe(`what counts, with commas: ${SOURCE_NAMES.join(', ')}; all when left out`)

export const forecastQuery = z.object({
  asOf: isoDate.optional().describe('today when left out; a past day uses what the ledger held then'),
  weeks: z.coerce.number().int().min(4).max(26).default(13),
  sources,
  currency: currency.optional().describe('this one alone, in its minor units; base when left out'),
  seed: z.string().min(1).max(40).default('bilancio').describe('the same seed gives the same figures'),
  by: z.enum(['week', 'day']).default('week').describe('day: also told day by day'),
  run: z
    .string()
    .regex(/^[\w-]{1,40}$/)
    .optional()
    .describe('a name by which its progress is asked for while it runs'),
})

const whatIfCustomer = z.object({
  customer: number,
  days: z.int().min(-60).max(365).default(0).describe('later than usual; negative: sooner'),
  never: z.boolean().default(false).describe('it does not pay at all'),
  discount: z.int().min(0).max(5000).default(0).describe('basis points that are given for it'),
})
export const whatIf = z.object({
  customers: z.array(whatIfCustomer).max(500).default([]),
  payments: z
    .array(z.object({ id, days: z.int().min(0).max(365) }))
    .max(500)
    .default([])
    .describe('planned payments that are held so many days'),
  sell: z
    .object({ facility: z.string().max(8), itemIds: z.array(id).min(1).max(5000) })
    .nullable()
    .default(null)
    .describe('invoices given to a factor now, by its terms'),
  rates: z
    .array(z.object({ currency, perCent: z.number().min(-90).max(500) }))
    .max(20)
    .default([]),
  campaign: z.boolean().default(false).describe('all who are overdue are reminded today'),
  stopHeld: z.boolean().default(false).describe('nothing more is sold to accounts that are held'),
})
export type WhatIfBody = z.input<typeof whatIf>

const band = z.object({
  from: z.string(),
  to: z.string(),
  p10: minor,
  p50: minor,
  p90: minor,
  mean: minor.describe('on average; averages of sources add up, middles do not'),
})
const customerRow = customerRef.extend({
  open: minor,
  expected: minor.describe('within the weeks'),
  weeks: z.array(minor),
  why: z.string().describe('how it usually pays, and how sure that is'),
  late: z.string().nullable().describe('how it fell behind its own habit; null: it did not'),
})
export type ForecastCustomerRow = z.infer<typeof customerRow>
export const forecastAnswer = z.object({
  asOf: z.string(),
  currency: z.string(),
  seed: z.string(),
  weeks: z.array(band),
  bySource: z.array(z.object({ source, weeks: z.array(band) })),
  days: z.array(band).describe('day by day; empty unless asked for'),
  daysBySource: z.array(z.object({ source, days: z.array(band) })),
  balance: z
    .array(z.object({ date: z.string(), p10: minor, p50: minor, p90: minor, below: z.number() }))
    .describe('at the bank, day by day; `below`: the chance that it was below the floor by then'),
  start: minor.nullable().describe('at the bank on the day'),
  floor: minor,
  alert: z.number().describe('per cent from which somebody is told'),
  crossing: z
    .object({ date: z.string(), chance: z.number() })
    .nullable()
    .describe(
      'the first day by which the floor is likelier crossed than the alert, and the chance by the end',
    ),
  customers: z.array(customerRow),
  learnt: z.object({
    items: z.int(),
    halving: z.int().describe('days after which a payment tells half as much'),
    withoutRate: z.array(z.string()).describe('currencies that are left out for want of a rate'),
    sooner: z
      .int()
      .nullable()
      .describe('days by which a reminder brings money sooner, by what worked; null: none is tried'),
  }),
})
export type ForecastAnswer = z.infer<typeof forecastAnswer>

const itemRow = z.object({
  itemId: z.int().describe('0 of an order'),
  number: z.string().describe('of the item, or of the order'),
  customer: customerRef,
  source,
  due: z.string().describe('of an order the day it was ordered'),
  open: minor,
  expected: minor,
  chance: z.number(),
  p10: z.string().nullable(),
  p50: z.string().nullable(),
  p90: z.string().nullable(),
  past: z.int().describe('days that it is past what is usual for its customer; 0: it is not'),
})
export const plannedBody = z.object({
  name: z.string().trim().min(1).max(80),
  kind: z.enum(Object.keys(PLANNED_KINDS) as [PlannedKind, ...PlannedKind[]]),
  currency,
  amount,
  from: isoDate,
  until: isoDate.nullable().default(null),
  every: z.enum(Object.keys(EVERY) as [Every, ...Every[]]).default('once'),
  into: z
    .object({ currency, amount })
    .nullable()
    .default(null)
    .describe('of a transfer: what arrives at the bank account of another currency'),
})
export type PlannedBody = z.input<typeof plannedBody>
const plannedRow = plannedBody.required().extend({ id: z.int(), next: z.string().nullable(), by: z.string() })
export type PlannedRow = z.infer<typeof plannedRow>

const plain = z.object({ due: minor, house: minor, customer: minor })
export const forecastPart = z.object({
  items: z.array(itemRow),
  planned: z.array(
    z.object({
      name: z.string(),
      date: z.string(),
      amount: minor,
      currency: z.string(),
      chance: z.number(),
    }),
  ),
  count: z.int(),
  expected: minor,
})
export type ForecastPart = z.infer<typeof forecastPart>
export const partQuery = forecastQuery
  .extend({
    week: z.coerce.number().int().min(1).max(26).optional(),
    day: z.coerce.number().int().min(1).max(182).optional().describe('1: the day after the forecast'),
    source,
  })
  .refine(q => (q.week === undefined) !== (q.day === undefined), { error: 'ask for a week or for a day' })

const compared = z.object({
  id: id.nullable().describe('null: as it is'),
  name: z.string(),
  words: z.array(z.string()).describe('what is otherwise'),
  end: band.nullable().describe('at the bank in the end'),
  lowest: z.object({ date: z.string(), amount: minor }).nullable().describe('lowest middle of a day'),
  below: z.number().nullable().describe('the chance to fall below the floor'),
  crossing: z.string().nullable(),
  net: z.array(minor).describe('what comes less what goes on average, within 4 weeks and within all'),
  trouble: z.string().describe('why it cannot be tried any more; empty when it can'),
})
export type ComparedWhatIf = z.infer<typeof compared>
const keptWhatIf = z.object({
  id,
  name: z.string(),
  words: z.array(z.string()),
  whatIf,
  by: z.string(),
  onDate: z.string(),
})
export type KeptWhatIf = z.infer<typeof keptWhatIf>

const bridgeAnswer = z.object({
  ...{ base: z.string(), asOf: z.string(), until: z.string() },
  ...{ expected: minor, late: minor, lost: minor, early: minor, ofOpen: minor, ofNew: minor, came: minor },
  foreseenNew: minor.nullable().describe('expected of orders and new sales; null where no record was kept'),
  weeks: z.array(z.object({ from: z.string(), to: z.string(), ofOpen: minor, ofNew: minor })),
  customers: z.array(customerRef.extend({ expected: minor, came: minor })),
})
export type ForecastBridgeAnswer = z.infer<typeof bridgeAnswer>

const record = z.object({
  asOf: z.string(),
  inflow: z.array(minor).describe('from customers on average, within 4 weeks and within all'),
  start: minor.nullable().describe('at the bank'),
  end: band.nullable().describe('at the bank after the weeks'),
  below: z.number(),
})
export type ForecastRecord = z.infer<typeof record>
const emails = z.array(z.email()).min(1, { error: 'say to whom' }).max(10)

export const forecast = {
  read: operation({
    method: 'get',
    path: '/api/forecast',
    summary: 'What will come, week by week, with bands of 80 %',
    ability: 'books.read',
    query: forecastQuery,
    response: forecastAnswer,
  }),
  file: operation({
    method: 'get',
    path: '/api/forecast/export',
    summary: 'The same as a file',
    ability: 'books.read',
    query: forecastQuery.extend({ format: z.enum(['csv', 'xlsx']).default('csv') }),
    responseType: TABLE_TYPES,
  }),
  part: operation({
    method: 'get',
    path: '/api/forecast/part',
    summary: 'What a week of a source is made of',
    ability: 'books.read',
    query: partQuery,
    response: forecastPart,
  }),
  progress: operation({
    method: 'get',
    path: '/api/forecast/progress/{run}',
    summary: 'How much of a forecast that is being worked out is done',
    ability: 'books.read',
    params: z.object({ run: z.string().max(40) }),
    response: z.object({ share: z.number().nullable().describe('0 to 1; null: it does not run here') }),
  }),
  sheet: operation({
    method: 'get',
    path: '/api/forecast/sheet',
    summary: 'One page for the meeting, as PDF',
    ability: 'books.read',
    query: forecastQuery,
    responseType: 'application/pdf',
  }),
  share: operation({
    method: 'post',
    path: '/api/forecast/share',
    summary: 'Send that page by mail',
    ability: 'forecast.plan',
    body: z.object({
      to: emails,
      note: z.string().max(2000).default(''),
      query: forecastQuery
        .omit({ sources: true })
        .extend({ sources: z.array(source).optional() })
        .prefault({}),
    }),
    response: z.object({ sent: z.array(z.string()) }),
  }),
  material: operation({
    method: 'get',
    path: '/api/forecast/material',
    summary: 'What a page needs to try what-ifs by itself; `null` where the house is too large for that',
    ability: 'books.read',
    query: forecastQuery,
    responseType: 'text/plain',
  }),
  whatIfs: operation({
    method: 'get',
    path: '/api/forecast/what-ifs',
    summary: 'What-ifs that are kept',
    ability: 'books.read',
    response: z.object({ items: z.array(keptWhatIf) }),
  }),
  keepWhatIf: operation({
    method: 'post',
    path: '/api/forecast/what-ifs',
    summary: 'Keep a what-if by a name; nothing is posted',
    ability: 'forecast.plan',
    body: z.object({ name: z.string().trim().min(1).max(80), whatIf }),
    response: z.object({ id: z.int() }),
    status: 201,
  }),
  endWhatIf: operation({
    method: 'delete',
    path: '/api/forecast/what-ifs/{id}',
    summary: 'Keep a what-if no more',
    ability: 'forecast.plan',
    params: z.object({ id }),
    status: 204,
  }),
  compare: operation({
    method: 'get',
    path: '/api/forecast/compare',
    summary: 'What-ifs that are kept side by side, beside the forecast as it is',
    ability: 'books.read',
    query: forecastQuery,
    response: z.object({ currency: z.string(), items: z.array(compared) }),
  }),
  records: operation({
    method: 'get',
    path: '/api/forecast/records',
    summary: 'The forecast of each week as it was told then, the newest first',
    ability: 'books.read',
    response: z.object({ base: z.string(), items: z.array(record) }),
  }),
  bridge: operation({
    method: 'get',
    path: '/api/forecast/bridge',
    summary: 'From what was expected on a past day to what came',
    ability: 'books.read',
    query: z.object({
      asOf: isoDate,
      weeks: z.coerce.number().int().min(1).max(26).default(4).describe('until today at most'),
    }),
    response: bridgeAnswer,
  }),
  customer: operation({
    method: 'get',
    path: '/api/forecast/customers/{number}',
    summary: 'What a customer is expected to pay, when, and why',
    ability: 'books.read',
    params: z.object({ number }),
    query: forecastQuery,
    response: customerRow.extend({ items: z.array(itemRow) }),
  }),
  whatIf: operation({
    method: 'post',
    path: '/api/forecast/what-if',
    summary: 'The forecast if something were otherwise; nothing is posted or kept',
    ability: 'books.read',
    body: z.object({
      query: forecastQuery.omit({ sources: true }).extend({ sources: z.array(source).optional() }),
      whatIf,
    }),
    response: forecastAnswer,
  }),
  whatIfPart: operation({
    method: 'post',
    path: '/api/forecast/what-if/part',
    summary: 'What a week or a day of a source would be made of, if something were otherwise',
    ability: 'books.read',
    body: z.object({ query: partQuery, whatIf }),
    response: forecastPart,
  }),
  selfTest: operation({
    method: 'get',
    path: '/api/forecast/self-test',
    summary: 'Forecasts of past month ends beside what came, and beside plain rules',
    ability: 'books.read',
    query: z.object({
      months: z.coerce.number().int().min(1).max(24).default(6),
      weeks: z.coerce.number().int().min(1).max(13).default(13),
    }),
    response: z.object({
      base: z.string(),
      weeks: z.array(band.extend({ asOf: z.string(), week: z.int(), came: minor, plain })),
      summary: z.array(
        z.object({
          week: z.int().describe('so many weeks ahead; 0: all'),
          count: z.int(),
          error: minor,
          plain,
          covered: z.number(),
          pinball: minor,
        }),
      ),
    }),
  }),
  planned: operation({
    method: 'get',
    path: '/api/forecast/payments',
    summary: 'Payments out that are planned',
    ability: 'books.read',
    response: z.object({ items: z.array(plannedRow) }),
  }),
  plan: operation({
    method: 'post',
    path: '/api/forecast/payments',
    summary: 'Plan a payment out, once or by a rule',
    ability: 'forecast.plan',
    body: plannedBody,
    response: z.object({ id: z.int() }),
    status: 201,
  }),
  change: operation({
    method: 'put',
    path: '/api/forecast/payments/{id}',
    summary: 'Plan a payment anew: the one of before ends, and the answer has the id of the new one',
    ability: 'forecast.plan',
    params: z.object({ id }),
    body: plannedBody,
    response: z.object({ id: z.int() }),
  }),
  end: operation({
    method: 'delete',
    path: '/api/forecast/payments/{id}',
    summary: 'Take a payment out of the plan',
    ability: 'forecast.plan',
    params: z.object({ id }),
    status: 204,
  }),
  importPlanned: operation({
    method: 'post',
    path: '/api/forecast/payments/import',
    summary:
      'Planned payments from a CSV file: all of its rows, or none. Columns name, kind, date, amount, currency, every, until',
    ability: 'forecast.plan',
    body: z.object({ csv: z.string().min(1).max(2_000_000) }),
    response: z.object({ added: z.int() }),
    status: 201,
  }),
}

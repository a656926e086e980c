import { z } from 'zod'
import { CASE_KINDS, type CaseKind } from '../core/impairment'
import { customerRef, id, isoDate, minor, TABLE_TYPES } from './common'
import { operation } from './operation'
import { proof } from './receipts/forms'

const why = z.string().trim().min(1, { error: 'say why' }).max(200)
const points = z.int().min(0).max(10_000)
export const caseKind = z.enum(Object.keys(CASE_KINDS) as [CaseKind, ...CaseKind[]])

export const allowanceBody = z.object({
  date: isoDate.describe('the day as of which it is worked out, as a rule a month end'),
  factor: z.int().min(0).max(100_000).default(10_000).describe('looking forward: 10,000 leaves the rates'),
  reason: z.string().trim().max(200).default('').describe('of the factor, where it is not 10,000'),
})
export type AllowanceBody = z.input<typeof allowanceBody>

export const caseBody = z.object({
  customer: z.string().min(1).max(32),
  itemId: id.optional().describe('one claim alone; all of the customer when left out'),
  kind: caseKind,
  rate: points.describe('of it is lost, hundredths of a per cent'),
  text: why,
})

const byBand = z.object({
  band: z.int(),
  gross: minor,
  borne: minor.describe('by insurers'),
  named: minor.describe('judged by name'),
  exposed: minor,
  rate: z.number().describe('hundredths of a per cent: allowance of what is exposed'),
  allowance: minor,
  net: minor.describe('gross less allowance, the named cases among it'),
})
export type AllowanceBand = z.infer<typeof byBand>
const sums = { count: z.int(), gross: minor, borne: minor, named: minor, exposed: minor, allowance: minor }

const cell = z.object({
  riskClass: z.string(),
  currency: z.string(),
  band: z.int(),
  gross: minor,
  grossBase: minor,
  borne: minor,
  borneBase: minor,
  named: minor,
  namedBase: minor,
  exposed: minor,
  exposedBase: minor,
  rate: points,
  allowance: minor,
  allowanceBase: minor,
})
const namedAllowance = z.object({
  id: z.int(),
  customer: customerRef,
  item: z.string().nullable(),
  kind: caseKind,
  text: z.string(),
  currency: z.string(),
  gross: minor,
  base: minor,
  rate: points,
  allowance: minor,
  allowanceBase: minor,
})
export type NamedAllowanceRow = z.infer<typeof namedAllowance>
const difference = z.object({
  currency: z.string(),
  amount: minor.describe('what should be set aside'),
  base: minor,
  posted: minor.describe('what is'),
  postedBase: minor,
  difference: minor,
  differenceBase: minor,
})
const bridge = z.object({
  from: z.string().nullable(),
  opening: minor,
  used: minor,
  added: minor,
  released: minor,
  rates: minor,
  named: minor,
  closing: minor,
})
export const allowanceAnswer = z.object({
  date: z.string(),
  base: z.string(),
  bands: z.array(z.string()),
  byBand: z.array(byBand).describe('base currency'),
  byClass: z.array(z.object({ riskClass: z.string(), ...sums })).describe('base currency'),
  cells: z.array(cell).describe('by class, currency and band: each is its exposure times its rate'),
  named: z.array(namedAllowance),
  totals: z.object({ gross: minor, collective: minor, named: minor, allowance: minor, net: minor }),
  differences: z.array(difference),
  bridge,
})
export type AllowanceAnswer = z.infer<typeof allowanceAnswer>

const caseRow = z.object({
  id: z.int(),
  customer: customerRef,
  item: z.string().nullable(),
  kind: caseKind,
  rate: points,
  text: z.string(),
  since: z.string(),
  by: z.string(),
})
const suggestion = z.object({
  customer: customerRef,
  kind: caseKind,
  item: z.object({ id: z.int(), number: z.string() }).nullable(),
  text: z.string(),
  open: minor.describe('base currency'),
})
export type CaseSuggestion = z.infer<typeof suggestion>

const runRow = z.object({
  id: z.int(),
  date: z.string(),
  factor: z.int(),
  reason: z.string(),
  allowance: minor,
  difference: minor,
  entry: z.int().nullable().describe('of the journal; null where nothing differed'),
  undone: z.boolean(),
  last: z.boolean().describe('the last that stands: it may be taken back'),
  by: z.string(),
})
export type AllowanceRunRow = z.infer<typeof runRow>

const day = z.object({ date: z.string(), stood: z.array(minor), lost: z.array(minor) })
const query = z.object({
  date: isoDate.optional().describe('the last month end when left out'),
  factor: z.coerce.number().int().min(0).max(100_000).default(10_000),
  reason: z.string().max(200).default(''),
})

/** What is set aside for debts that will be lost. */
export const allowance = {
  read: operation({
    method: 'get',
    path: '/api/impairment/allowance',
    summary: 'The allowance of a day, worked out: matrix, named cases, what is posted, and the difference',
    ability: 'books.read',
    query,
    response: allowanceAnswer,
  }),
  export: operation({
    method: 'get',
    path: '/api/impairment/allowance/export',
    summary: 'Its cells and named cases, for the note to the accounts',
    ability: 'books.read',
    query: query.extend({ format: z.enum(['csv', 'xlsx']).default('csv') }),
    responseType: TABLE_TYPES,
  }),
  proof: operation({
    method: 'post',
    path: '/api/impairment/allowance/proof',
    summary: 'What the allowance would post: the difference to what is set aside',
    ability: 'impairment.post',
    body: allowanceBody,
    response: proof,
  }),
  post: operation({
    method: 'post',
    path: '/api/impairment/allowance',
    summary: 'Post the difference to what is set aside, and keep how it was worked out',
    ability: 'impairment.post',
    body: allowanceBody,
    response: z.object({ id: z.int(), difference: minor }),
    status: 201,
  }),
  runs: operation({
    method: 'get',
    path: '/api/impairment/allowance/runs',
    summary: 'Allowances that were posted, the newest first',
    ability: 'books.read',
    response: z.object({ items: z.array(runRow), base: z.string() }),
  }),
  undo: operation({
    method: 'post',
    path: '/api/impairment/allowance/runs/{id}/undo',
    summary: 'Take the last allowance back, on its own day',
    ability: 'impairment.post',
    params: z.object({ id }),
    body: z.object({ reason: why }),
    response: z.object({ undone: z.boolean() }),
  }),
  cases: operation({
    method: 'get',
    path: '/api/impairment/cases',
    summary: 'Cases that are judged by name, and those that may have to be',
    ability: 'books.read',
    response: z.object({
      items: z.array(caseRow),
      suggestions: z.array(suggestion),
      base: z.string(),
    }),
  }),
  addCase: operation({
    method: 'post',
    path: '/api/impairment/cases',
    summary: 'Judge a customer, or one claim, by name: it leaves the matrix',
    ability: 'impairment.post',
    body: caseBody,
    response: z.object({ id: z.int() }),
    status: 201,
  }),
  endCase: operation({
    method: 'post',
    path: '/api/impairment/cases/{id}/end',
    summary: 'End a named case: its claims go back into the matrix',
    ability: 'impairment.post',
    params: z.object({ id }),
    body: z.object({ reason: why }),
    response: z.object({ ended: z.boolean() }),
  }),
  rates: operation({
    method: 'get',
    path: '/api/impairment/rates',
    summary: 'Rates of loss from the ledger’s own past, two ways, with all that they are made of',
    ability: 'books.read',
    query: z.object({ months: z.coerce.number().int().min(2).max(36).default(12) }),
    response: z.object({
      base: z.string(),
      bands: z.array(z.string()),
      now: z.array(points).describe('in Setup, for classes without a row of their own'),
      days: z.array(day).describe('what stood on each month end, by band, and what of it is lost since'),
      roll: z.object({
        rolls: z.array(points),
        lastLost: points,
        lost: minor.describe('written off in these months, less what came back'),
        rates: z.array(points),
      }),
      cohorts: z.array(points),
    }),
  }),
}

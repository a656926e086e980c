import { z } from 'zod'
import { ANSWER_KINDS, FACTOR_STATES, type AnswerKind, type FactorState } from '../core/factoring/answers'
import { LEFT_OUT, type LeftOutRule } from '../core/factoring/eligible'
import { amount, currency, customerRef, id, minor, TABLE_TYPES } from './common'
import { operation } from './operation'
import { proof } from './receipts/forms'

const code = z.string().regex(/^[A-Z0-9-]{1,8}$/, { error: 'one to eight capitals or digits' })
const points = z.int().min(0).max(10_000)
const account = z.string().regex(/^\d{3,8}$/, { error: 'the number of a ledger account' })
const answerKind = z.enum(Object.keys(ANSWER_KINDS) as [AnswerKind, ...AnswerKind[]])
const factorState = z.enum(Object.keys(FACTOR_STATES) as [FactorState, ...FactorState[]])
const rule = z.enum(Object.keys(LEFT_OUT) as [LeftOutRule, ...LeftOutRule[]])
const params = z.object({ id })

export const facilityBody = z.object({
  name: z.string().trim().min(1).max(80),
  iban: z
    .string()
    .max(34)
    .default('')
    .describe('its payments come from there: they are proposed to its account'),
  recourse: z.boolean().describe('the loss stays ours'),
  disclosed: z.boolean().describe('the debtor is told'),
  currencies: z.array(currency).min(1).max(20),
  advanceRate: points,
  commissionRate: points,
  commissionFloor: minor.min(0).default(0),
  taxRate: points,
  interestRate: points.describe('yearly; on top of the reference rate where there is one'),
  interestReference: z
    .string()
    .max(16)
    .nullable()
    .default(null)
    .describe('code of a reference rate; null: none'),
  yearDays: z.union([z.literal(360), z.literal(365)]).default(360),
  limit: minor.min(1).nullable().default(null),
  debtorLimit: minor.min(1).nullable().default(null),
  concentration: points.nullable().default(null),
  recourseDays: z.int().min(1).max(720).nullable().default(90),
  eligible: z.object({
    mostAge: z.int().min(1).max(3650).nullable().default(null),
    mostTerm: z.int().min(1).max(3650).nullable().default(null),
    countries: z.array(z.string().length(2)).max(250).default([]),
    classes: z.array(z.string().max(24)).max(100).default([]),
    least: minor.min(0).default(0),
  }),
  accounts: z.object({ current: account, commission: account, interest: account, tax: account }),
  version: z.int().min(0).default(0).describe('as it was read; 0 for a new one'),
})
export type FacilityBody = z.input<typeof facilityBody>

const facilityRow = facilityBody.required().extend({
  id: z.int(),
  code: z.string(),
  closedOn: z.string().nullable(),
  /** Base currency. */
  used: minor.describe('what lies with the factor, base currency'),
  balance: minor.describe('of its account: positive, the factor owes us'),
  yearlyRate: z
    .int()
    .nullable()
    .describe('basis points a year that an advance costs today; null: its reference rate is not known'),
  months: z
    .array(
      z.object({
        month: z.string(),
        currency: z.string(),
        invoices: z.int(),
        advance: minor,
        kept: minor,
        effective: z.number().nullable(),
      }),
    )
    .describe('of invoices that debtors paid to it, by month of that payment: what its money cost'),
})
export type FacilityRow = z.infer<typeof facilityRow>

const cost = z.object({
  nominal: z.number().nullable().describe('per cent a year'),
  effective: z.number().nullable().describe('the same compounded'),
})

const scheduleRow = z.object({
  id: z.int(),
  number: z.string(),
  facility: z.object({ code: z.string(), name: z.string() }),
  date: z.string(),
  currency: z.string(),
  state: z.enum(['made', 'sent', 'taken-back']),
  count: z.int(),
  total: minor,
  accepted: minor,
  refused: minor.describe('and what came back'),
  advance: minor,
  collected: minor,
  kept: minor.describe('commission and interest, without tax'),
  open: z.int().describe('invoices that wait for an answer, or for the debtor'),
  cost,
  by: z.string(),
})
export type ScheduleRow = z.infer<typeof scheduleRow>

const offeredRow = z.object({
  itemId: z.int(),
  number: z.string(),
  customer: customerRef,
  currency: z.string(),
  due: z.string(),
  open: minor,
  base: minor,
})
export type OfferedRow = z.infer<typeof offeredRow>
const leftOutRow = offeredRow.extend({ rule, why: z.string() })
export type LeftOutRow = z.infer<typeof leftOutRow>

const scheduleItem = z.object({
  id: z.int(),
  itemId: z.int(),
  number: z.string(),
  customer: customerRef,
  amount: minor,
  state: factorState,
  advance: minor,
  collected: minor,
  commission: minor,
  commissionTax: minor,
  interest: minor,
  repaid: minor,
  acceptedOn: z.string().nullable(),
  collectedOn: z.string().nullable(),
  days: z.int().describe('from the advance to the payment, or until today'),
  cost,
  waiting: z.object({
    days: z.number().nullable().describe('how late the customer pays by itself'),
    overdraft: minor.describe('what the overdraft would have cost for these days'),
  }),
  due: z.string(),
  backOn: z.string().nullable().describe('from then on the factor may give it back'),
})
export type ScheduleItem = z.infer<typeof scheduleItem>

const event = z.object({
  kind: answerKind,
  date: z.string(),
  invoice: z.string(),
  amount: minor,
  settlement: z.string(),
  text: z.string(),
  entry: z.int().nullable(),
})

/** Invoices that are given to factors. */
export const factoring = {
  facilities: operation({
    method: 'get',
    path: '/api/factoring/facilities',
    summary: 'Factors with their terms, and what lies with each',
    ability: 'books.read',
    response: z.object({ items: z.array(facilityRow), base: z.string() }),
  }),
  keepFacility: operation({
    method: 'put',
    path: '/api/factoring/facilities/{code}',
    summary: 'Add a factor, or change its terms; ledger accounts that are missing are added',
    ability: 'policy.edit',
    params: z.object({ code }),
    body: facilityBody,
    response: facilityRow,
  }),
  proposal: operation({
    method: 'get',
    path: '/api/factoring/proposal',
    summary: 'Invoices that the terms allow, and every other one with its reason',
    ability: 'factoring.run',
    query: z.object({
      facility: code,
      currency,
      rule: rule.optional().describe('only those left out for this reason'),
      limit: z.coerce.number().int().min(1).max(20_000).default(200),
    }),
    response: z.object({
      chosen: z.array(offeredRow),
      leftOut: z.array(leftOutRow),
      totals: z.object({ chosen: minor, count: z.int(), advance: minor, commission: minor }),
      reasons: z.array(z.object({ rule, count: z.int(), base: minor })),
      base: z.string(),
    }),
  }),
  offer: operation({
    method: 'post',
    path: '/api/factoring/schedules',
    summary: 'Offer invoices to a factor: the schedule is made and given to it',
    ability: 'factoring.run',
    body: z.object({
      facility: code,
      currency,
      itemIds: z.array(id).min(1, { error: 'choose invoices' }).max(20_000),
    }),
    response: z.object({ id: z.int(), number: z.string() }),
    status: 201,
  }),
  schedules: operation({
    method: 'get',
    path: '/api/factoring/schedules',
    summary: 'Schedules, the newest first, with what they brought and cost',
    ability: 'books.read',
    query: z.object({ facility: code.optional() }),
    response: z.object({ items: z.array(scheduleRow) }),
  }),
  schedule: operation({
    method: 'get',
    path: '/api/factoring/schedules/{id}',
    summary: 'A schedule with its invoices, what each cost, and what the factor told',
    ability: 'books.read',
    params,
    response: scheduleRow.extend({
      items: z.array(scheduleItem),
      events: z.array(event),
      overdraft: z.number().describe('per cent a year, from Setup'),
      money: z
        .object({
          told: minor.describe('advances and payouts that the factor told of'),
          seen: minor.describe('bank lines from or to it that name the schedule or its settlements'),
          lines: z.array(
            z.object({
              id: z.int(),
              date: z.string(),
              amount: minor,
              text: z.string(),
              settled: z.boolean(),
            }),
          ),
        })
        .describe('what was told beside what the bank has shown'),
      moneyWeighted: z
        .object({ rate: z.number().nullable(), none: z.string() })
        .describe('yearly rate of all its flows; without one, why'),
    }),
  }),
  scheduleFile: operation({
    method: 'get',
    path: '/api/factoring/schedules/{id}/file',
    summary: 'A schedule as a file',
    ability: 'books.read',
    params,
    query: z.object({ format: z.enum(['csv', 'xlsx']).default('csv') }),
    responseType: TABLE_TYPES,
  }),
  copies: operation({
    method: 'get',
    path: '/api/factoring/schedules/{id}/copies',
    summary: 'Its invoices as UBL 2.1, together in a ZIP',
    ability: 'books.read',
    params,
    responseType: 'application/zip',
  }),
  takeBack: operation({
    method: 'post',
    path: '/api/factoring/schedules/{id}/take-back',
    summary: 'Take a schedule back, while the factor has answered nothing of it',
    ability: 'factoring.run',
    params,
    body: z.object({ reason: z.string().trim().min(1).max(200) }),
    response: z.object({ takenBack: z.boolean() }),
  }),
  answer: operation({
    method: 'post',
    path: '/api/factoring/answers',
    summary: 'Take in what a factor tells: all lines are posted, or none',
    ability: 'factoring.run',
    body: z.object({ facility: code, name: z.string().max(120), csv: z.string().max(5_000_000) }),
    response: z.object({ lines: z.int(), known: z.boolean() }),
  }),
  waiting: operation({
    method: 'get',
    path: '/api/factoring/inbox',
    summary: 'Files that factors left in their folder and that were not taken in yet',
    ability: 'factoring.run',
    response: z.object({
      items: z.array(
        z.object({
          facility: z.string(),
          file: z.string(),
          fault: z.string().describe('what is in its way; empty when it would be taken'),
        }),
      ),
    }),
  }),
  inbox: operation({
    method: 'post',
    path: '/api/factoring/inbox',
    summary: 'Take in the files that factors left in their folder',
    ability: 'factoring.run',
    response: z.object({
      taken: z.int(),
      faults: z.array(z.object({ file: z.string(), fault: z.string() })),
    }),
  }),
  short: operation({
    method: 'post',
    path: '/api/factoring/close/short',
    summary: 'The factor paid an invoice less its commission: close invoice, money and commission together',
    ability: 'factoring.run',
    body: z.object({ facility: code, creditItemId: id, itemId: id }),
    response: z.object({ numbers: z.array(z.string()) }),
    status: 201,
  }),
  shortProof: operation({
    method: 'post',
    path: '/api/factoring/close/short/proof',
    summary: 'What that would post',
    ability: 'factoring.run',
    body: z.object({ facility: code, creditItemId: id, itemId: id }),
    response: proof,
  }),
  passOn: operation({
    method: 'post',
    path: '/api/factoring/close/pass-on',
    summary: 'Money that a debtor paid to us is the factor’s: take it off the account, and owe it',
    ability: 'factoring.run',
    body: z.object({ facility: code, creditItemId: id, amount }),
    response: z.object({ numbers: z.array(z.string()) }),
    status: 201,
  }),
  passOnProof: operation({
    method: 'post',
    path: '/api/factoring/close/pass-on/proof',
    summary: 'What that would post',
    ability: 'factoring.run',
    body: z.object({ facility: code, creditItemId: id, amount }),
    response: proof,
  }),
  undoPassOn: operation({
    method: 'post',
    path: '/api/factoring/close/pass-on/{id}/undo',
    summary: 'Take money back that was passed on by mistake: it is on its account again',
    ability: 'factoring.run',
    params,
    body: z.object({ reason: z.string().trim().min(1).max(200) }),
    response: z.object({ undone: z.boolean() }),
  }),
  toClose: operation({
    method: 'get',
    path: '/api/factoring/close',
    summary: 'Money on accounts whose invoices lie with a factor, and what may be done with it',
    ability: 'books.read',
    response: z.object({
      passed: z
        .array(
          z.object({
            id: z.int(),
            number: z.string(),
            date: z.string(),
            customer: customerRef,
            currency: z.string(),
            amount: minor,
            factor: z.string(),
          }),
        )
        .describe('passed on before, the newest first'),
      items: z.array(
        z.object({
          credit: z.object({ id: z.int(), number: z.string(), date: z.string(), open: minor }),
          customer: customerRef,
          currency: z.string(),
          facility: z.object({ code: z.string(), name: z.string() }),
          short: z
            .object({ itemId: z.int(), number: z.string(), open: minor, net: minor, tax: minor })
            .nullable()
            .describe('the invoice that it pays, less the commission of the terms'),
          passOn: minor.describe('of it is for invoices that were sold'),
        }),
      ),
    }),
  }),
}

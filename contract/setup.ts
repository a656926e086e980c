import { z } from 'zod'
import { currency, isoDate, minor } from './common'
import { operation } from './operation'
import { IMPAIRMENT_POLICY } from '../core/impairment/policy'
import { creditorIdFault, RETURN_ACTIONS, type ReturnAction } from '../core/payments'
import { DEBIT_FORMATS, TRANSFER_FORMATS } from '../formats/payments/types'
import { thresholds } from './signOff'

const receiptPolicy = z.object({
  discountGraceDays: z
    .int()
    .min(0)
    .max(30)
    .describe('days after the discount date on which it is still granted'),
  partPayments: z.enum(['lose', 'pro-rata']).describe('what a part payment does to the discount'),
  tolerance: z
    .int()
    .min(0)
    .max(1_000_000)
    .describe('largest small difference that may be written off, base minor units'),
})
const matching = z.object({
  automatic: z.boolean().describe('take clear bank lines without a look'),
  wrongCosts: z
    .int()
    .min(2)
    .max(10_000)
    .describe('one wrong posting costs as much as so many looks: what is sure enough follows from it'),
})
const access = z.object({
  idleMinutes: z.int().min(5).max(720).describe('a session ends after so long without a request'),
  absoluteHours: z.int().min(1).max(24).describe('and so long after sign-in'),
  hosts: z
    .array(
      z
        .string()
        .trim()
        .toLowerCase()
        .regex(/^[a-z0-9.-]{1,253}$/, { error: 'write a name such as desk.example' }),
    )
    .max(20)
    .describe('names that browsers may reach the application by, beside this machine itself'),
  proxies: z
    .array(z.string().trim().min(2).max(64))
    .max(20)
    .describe('addresses or ranges of proxies whose X-Forwarded-For is believed'),
})
const line = (most: number) => z.string().trim().max(most)
const MOST_LOGO = 300_000
export const house = z.object({
  street: line(120),
  postcode: line(16),
  city: line(80),
  country: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^(?:[A-Z]{2})?$/, { error: 'use the two letters of ISO 3166, such as IE' }),
  vatNumber: line(20),
  email: z.union([z.literal(''), z.email({ error: 'write an e-mail address' })]),
  phone: line(40),
  bank: line(80),
  iban: line(42),
  bic: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^(?:[A-Z]{6}[A-Z0-9]{2}(?:[A-Z0-9]{3})?)?$/, { error: 'a BIC has 8 or 11 signs (ISO 9362)' }),
  logo: z
    .string()
    .max(MOST_LOGO, { error: 'the picture is too large: at most 200 kB' })
    .regex(/^(?:(?:iVBORw0KGgo|\/9j\/)[A-Za-z0-9+/=]*)?$/, { error: 'choose a PNG or a JPEG' })
    .describe('PNG or JPEG, base64; empty for none'),
})
const bucketSets = z
  .array(
    z.object({
      name: z.string().trim().min(1, { error: 'write a name' }).max(40),
      bounds: z.array(z.int()).min(1).max(4),
    }),
  )
  .max(12)
const days = z.int().min(0).max(3650)
const holdRules = z.object({
  overLimitPercent: z.int().min(0).max(1000).nullable().describe('null: the rule is off'),
  overdueDays: days.nullable(),
  overdueAmount: z.int().min(0).max(1_000_000_000_000),
  reminderLevel: z.int().min(1).max(20).nullable(),
  expiredLimit: z.boolean(),
  insuredExceeded: z.boolean(),
  brokenPromiseDays: days.nullable().default(null),
})
const returnAction = z.enum(Object.keys(RETURN_ACTIONS) as [ReturnAction, ...ReturnAction[]])
const lapseDays = z.int().min(30).max(36_500)
const paymentPolicy = z.object({
  creditorId: z
    .string()
    .trim()
    .toUpperCase()
    .transform(id => id.replace(/\s/g, ''))
    .refine(id => id === '' || creditorIdFault(id) === '', {
      error: 'no creditor identifier: country, two check digits, three signs, the national part',
    })
    .describe('ours for direct debits; empty for none'),
  transferFormat: z.enum(TRANSFER_FORMATS),
  debitFormat: z.enum(DEBIT_FORMATS),
  noticeDays: z.int().min(1).max(60).describe('days of advance notice before a collection'),
  creditsFirst: z.boolean().describe('credits on the account are taken off what is collected'),
  withCharges: z.boolean().describe('fees and interest are collected too'),
  least: z.int().min(0).max(100_000_000).describe('less is not collected, minor units of euro'),
  returnFee: z.int().min(0).max(10_000_000).describe('charged on for a return, minor units of euro'),
  returnActions: z.record(z.string().regex(/^[A-Z0-9]{4}$/), returnAction),
  againTimes: z.int().min(0).max(3).describe('a collection that came back is presented again so often'),
  againWeekday: z.int().min(1).max(5).nullable().describe('on this weekday, 1 Monday; null: any'),
  chequeDuplicates: z.boolean().describe('numbers of cheques may come again'),
  chequeDays: z.int().min(1).max(365).describe('a cheque not cashed by then is told of'),
  lapse: z.object({
    days: lapseDays.describe('that a credit lies unclaimed before it may be taken off'),
    byCountry: z.record(
      z.string().regex(/^[A-Z]{2}$/),
      z.object({ days: lapseDays, to: z.enum(['income', 'owed']) }),
    ),
    most: z
      .int()
      .min(0)
      .max(100_000_000)
      .describe('credits above this are never taken off, base minor units'),
  }),
})
const country = z.string().regex(/^[A-Z]{2}$/, { error: 'a country is two letters' })
const reliefRule = z.object({
  days: z.int().min(0).max(3650).nullable().describe('after the due date; null: age alone never gives it'),
  reminded: z.int().min(0).max(20).describe('a reminder of this level must have been sent; 0 for none'),
  insolvency: z.boolean().describe('an insolvency of the customer is enough by itself'),
})
/** Hundredths of a per cent. */
const lossRates = z.array(z.int().min(0).max(10_000, { error: 'at most 100 %' })).max(6)
const impairmentPolicy = z.object({
  relief: z.object({
    rest: reliefRule.nullable().describe('where no country says otherwise; null: never'),
    byCountry: z.record(country, reliefRule.nullable()),
  }),
  smallMost: z.int().min(0).max(100_000_000).describe('a small balance, base minor units'),
  smallDays: z.int().min(0).max(3650).describe('so many days late'),
  allowance: z
    .object({
      bounds: z
        .array(z.int().min(1).max(3650))
        .min(1)
        .max(4)
        .describe('upper bounds of the age bands, rising'),
      matrix: z.object({
        rest: lossRates.describe('of classes without a row of their own, one for each band'),
        byClass: z.record(z.string().min(1).max(8), lossRates),
      }),
    })
    .refine(({ bounds }) => bounds.every((bound, n) => n === 0 || bound > bounds[n - 1]!), {
      error: 'the bounds of the bands rise, such as 30, 60, 90',
      path: ['bounds'],
    })
    .refine(
      ({ bounds, matrix }) =>
        [matrix.rest, ...Object.values(matrix.byClass)].every(rates => rates.length === bounds.length + 2),
      { error: 'give one rate for what is not due, and one for each age band', path: ['matrix'] },
    )
    .default(IMPAIRMENT_POLICY.allowance),
})
const factoringPolicy = z.object({
  overdraft: z.int().min(0).max(10_000).describe('basis points a year: the cost of waiting for money'),
})
const forecastPolicy = z.object({
  floor: minor.describe('of the money at the bank, base minor units; negative: an overdraft'),
  alert: z.int().min(1).max(100).describe('per cent of chance from which somebody is told'),
})
const measureTargets = z
  .object({
    overdueShare: z.number().min(0).max(100),
    over90Share: z.number().min(0).max(100),
    dso: z.number().min(0).max(1000),
    countBack: z.number().min(0).max(1000),
    bestDso: z.number().min(0).max(1000),
    delinquent: z.number().min(0).max(1000),
    daysLate: z.number().min(-365).max(1000),
    effectiveness: z.number().min(0).max(100),
    promisesKept: z.number().min(0).max(100),
    unallocated: z.int().min(0).max(Number.MAX_SAFE_INTEGER),
    disputed: z.int().min(0).max(Number.MAX_SAFE_INTEGER),
  })
  .partial()
const weight = z.number().min(0).max(100)
const reviewWeights = z.object({
  daysLate: weight,
  trend: weight,
  shareLate: weight,
  shareOverdue: weight,
  returned: weight,
  promises: weight.default(10),
  months: weight,
})
const reminderSchedule = z.object({
  weekday: z.int().min(1).max(5).describe('1: Monday'),
  policy: z.string().max(24).describe('empty: each customer by its own'),
  levelOneBySelf: z.boolean().describe('notices of the first level go out without a person'),
})

export const settingsAnswer = z.object({
  company: z.string(),
  house,
  base: z.string(),
  today: z.string(),
  demo: z.boolean(),
  closedUntil: z.string().nullable(),
  bounds: z.array(z.int()),
  bucketSets,
  holdRules,
  signOff: thresholds,
  buckets: z.array(z.object({ label: z.string() })),
  overdueTarget: minor,
  measureTargets,
  reviewWeights,
  promiseGraceDays: z.int().describe('bank working days within which a promise is still kept'),
  reminderSchedule: reminderSchedule.nullable(),
  receiptPolicy,
  paymentPolicy,
  impairmentPolicy,
  factoringPolicy,
  forecastPolicy,
  matching: matching.extend({ threshold: z.number().describe('how sure a proposal must be for that') }),
  timeZone: z.string(),
  access: access.nullable().describe('for those who may change it'),
  chart: z.array(
    z.object({ number: z.string(), name: z.string(), type: z.string(), purpose: z.string().nullable() }),
  ),
  series: z.array(z.object({ name: z.string(), prefix: z.string(), next: z.int() })),
  classes: z.array(
    z.object({
      code: z.string(),
      name: z.string(),
      keepOnItem: z.boolean().describe('an overpayment may be kept on the item'),
    }),
  ),
  currencies: z.array(z.string()),
  countries: z.array(z.string()),
})
export type SettingsAnswer = z.infer<typeof settingsAnswer>

/** Settings, customer classes, and the Clock of the demo. */
export const setup = {
  settings: operation({
    method: 'get',
    path: '/api/settings',
    summary: 'Settings, chart of accounts, number series',
    ability: 'read',
    response: settingsAnswer,
  }),
  changeSettings: operation({
    method: 'put',
    path: '/api/settings',
    summary: 'Change settings',
    ability: 'policy.edit',
    body: z.object({
      company: z.string().trim().min(1).max(80).optional(),
      house: house.optional().describe('address, tax number, bank account and logo for letters'),
      base: currency.optional().describe('base currency: while nothing is posted'),
      timeZone: z.string().min(1).max(64).optional().describe('IANA name: the day begins there'),
      bounds: z.array(z.int()).optional(),
      bucketSets: bucketSets.optional().describe('further sets of buckets to age by'),
      holdRules: holdRules.optional().describe('when accounts are held'),
      signOff: thresholds.optional().describe('up to which amounts one person is enough'),
      overdueTarget: z.int().min(0).max(Number.MAX_SAFE_INTEGER).optional(),
      reviewWeights: reviewWeights.optional().describe('of the parts of the score of an account'),
      promiseGraceDays: z
        .int()
        .min(0)
        .max(30)
        .optional()
        .describe('bank working days within which a promise is still kept'),
      reminderSchedule: reminderSchedule
        .nullable()
        .optional()
        .describe('a weekly run that is prepared by itself'),
      measureTargets: measureTargets.optional().describe('what the team aims at, by measure'),
      receiptPolicy: receiptPolicy.optional(),
      paymentPolicy: paymentPolicy.optional().describe('how the house pays back and collects'),
      impairmentPolicy: impairmentPolicy.optional().describe('how the house gives up claims'),
      factoringPolicy: factoringPolicy.optional().describe('what waiting for money costs'),
      forecastPolicy: forecastPolicy.optional().describe('the floor of the bank balance'),
      matching: matching.optional(),
      closedUntil: isoDate.nullable().optional(),
      access: access.optional().describe('needs the ability people.edit'),
    }),
    response: settingsAnswer,
  }),
  firstSteps: operation({
    method: 'get',
    path: '/api/setup/first-steps',
    summary: 'What a new house still has to tell before it can work',
    ability: 'read',
    response: z.object({
      done: z.boolean(),
      steps: z.array(
        z.object({ key: z.string(), title: z.string(), why: z.string(), done: z.boolean(), to: z.string() }),
      ),
    }),
  }),
  advance: operation({
    method: 'post',
    path: '/api/clock/advance',
    summary: 'Advance the Clock of the demo by a day',
    ability: 'clock.advance',
    response: z.object({
      today: z.string(),
      delivered: z.array(z.string()).describe('files that the simulated bank left in the inbox'),
    }),
  }),
}
